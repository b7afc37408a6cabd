<script setup lang="ts">
import { t } from '@/ui/words'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client } from '@/api/client'
import { useMethods } from '@/api/queries'
import { commandsFor, type Command } from '@/app/commands'
import ChoiceList from '@/ui/ChoiceList.vue'
import { vFocus } from '@/ui/focus'
import { listedKeys } from '@/ui/keys'

/** Everything that can be done or opened, found by words. */
const open = defineModel<boolean>({ required: true })
const router = useRouter()
const typed = ref('')
const sought = refDebounced(typed, 150)
const place = ref(0)
const methods = useMethods()
const jobs = useQuery({
  queryKey: ['palette', sought],
  queryFn: () =>
    ask(client.GET('/api/jobs', { params: { query: { search: sought.value.trim(), limit: 5 } } })),
  enabled: computed(() => open.value && sought.value.trim() !== ''),
  placeholderData: keepPreviousData,
})
const commands = computed(() =>
  commandsFor(typed.value, {
    page: open.value ? listedKeys() : [],
    jobs: sought.value.trim() ? (jobs.data.value?.jobs ?? []) : [],
    methods: methods.data.value ?? [],
  }),
)
watch(open, () => (typed.value = ''))
watch(typed, () => (place.value = 0))

function move(by: number) {
  const count = commands.value.length
  if (count) place.value = (place.value + by + count) % count
}
function run(command: Command | undefined) {
  if (!command) return
  open.value = false
  if (command.to) void router.push(command.to)
  else command.act?.()
}
</script>

<template>
  <v-dialog v-model="open" max-width="620" location="top" :aria-label="t('app.commands')">
    <form class="leaf palette" role="search" @submit.prevent="run(commands[place])">
      <v-text-field
        v-model="typed"
        v-focus
        :label="t('app.action-screen-job-or-method')"
        autocomplete="off"
        aria-controls="palette-list"
        :aria-activedescendant="`palette-list-${place}`"
        @keydown.down.prevent="move(1)"
        @keydown.up.prevent="move(-1)"
      />
      <ChoiceList
        id="palette-list"
        v-model="place"
        class="commands"
        :name="t('app.commands')"
        :choices="commands"
        @choose="run(commands[$event])"
      />
      <p v-if="!commands.length" class="quiet small" role="status">
        {{ t('app.no-action-screen-open-job-or-method') }}
      </p>
    </form>
  </v-dialog>
</template>

<style scoped>
.commands {
  min-height: 60px;
  max-height: 420px;
}
</style>
