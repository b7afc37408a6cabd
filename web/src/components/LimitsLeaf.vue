<script setup lang="ts">
import { reactive, watch } from 'vue'
import { ask, client, type TestView } from '@/api/client'
import RefusalNote from './RefusalNote.vue'
import { limitsFrom } from '@/composables/limits'
import { useAct } from '@/composables/queries'

/** Changing the limits of a test, until it is released. */
const props = defineProps<{ test: TestView }>()
const open = defineModel<boolean>({ required: true })
const { act, refused, busy } = useAct()
const limits = reactive<Record<string, string>>({})
let seen = 0

watch(open, (now) => {
  if (!now) return
  refused.value = ''
  seen = props.test.revision
  for (const row of props.test.rows) limits[row.direction] = row.criterion?.limit ?? ''
})

async function save() {
  const body = {
    revision: seen,
    limits: limitsFrom(props.test.rows, limits),
  }
  const params = { path: { test_id: props.test.id } }
  if (await act(() => ask(client.PUT('/api/tests/{test_id}/limits', { params, body }))))
    open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="440">
    <form class="leaf" @submit.prevent="save">
      <h2>Limits of {{ test.title.toLowerCase() }}</h2>
      <p class="quiet small">
        The last digit says to where figures are rounded. Empty: report only.
      </p>
      <v-text-field
        v-for="row in test.rows"
        :key="row.direction"
        v-model="limits[row.direction]"
        class="mono"
        :label="`${row.direction}: ${row.criterion?.on ?? 'mean'} ${row.criterion?.op === '<=' ? 'at most' : 'at least'}`"
        :suffix="row.unit"
        inputmode="decimal"
      />
      <RefusalNote v-model="refused" />
      <footer>
        <button type="button" class="act" @click="open = false">Leave as it is</button>
        <button class="act main" :disabled="busy">Change the limits</button>
      </footer>
    </form>
  </v-dialog>
</template>
