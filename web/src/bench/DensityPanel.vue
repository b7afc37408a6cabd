<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import { ask, client, type TestView } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import { useSession } from '@/app/session'
import { fixed } from '@/ui/numbers'
import RefusalNote from '@/ui/RefusalNote.vue'
import FromRecord from '@/ui/FromRecord.vue'

/** The register of melt densities: a test enters what it found, or is set up with what is known. */
const props = defineProps<{ test: TestView }>()
const { act, refused, busy } = useAct()
const finds = computed(() => props.test.method === 'melt-density')
const needs = computed(() => props.test.set_up.includes('melt_density_g_cm3'))
const { me } = useSession()
const mayEnter = computed(() => me.value?.may.includes('approve-densities') ?? false)
const register = useQuery({
  queryKey: ['densities'],
  queryFn: () => ask(client.GET('/api/densities')),
  enabled: computed(() => finds.value || needs.value),
})
const inForce = computed(() => (register.data.value ?? []).filter((row) => row.in_force))
const typed = reactive({ formulation: '', revision: '' })
const answer = () => ({
  params: { path: { test_id: props.test.id } },
  body: { formulation: typed.formulation, revision: typed.revision },
})
const enter = () => act(() => ask(client.POST('/api/tests/{test_id}/density', answer())))
const use = () => act(() => ask(client.POST('/api/tests/{test_id}/use-density', answer())))
</script>

<template>
  <section v-if="finds || needs">
    <h3>{{ t('bench.melt-density') }}</h3>
    <p v-for="row in inForce" :key="row.id" class="small">
      <ActButton
        type="button"
        kind="link"
        @click="Object.assign(typed, { formulation: row.formulation, revision: row.revision })"
      >
        {{ row.formulation }} {{ row.revision }}
      </ActButton>
      <b class="mono">{{ fixed(row.density_g_cm3, 4) }}</b>
      {{ t('bench.g-cm-at-c-runs', { temperature_c: fixed(row.temperature_c, 0), runs: row.runs })
      }}<template v-if="row.sd_g_cm3 !== null">{{
        t('bench.sd', { sd_g_cm3: fixed(row.sd_g_cm3, 4) })
      }}</template
      >{{ t('bench.no-further-cuts') }}
    </p>
    <FromRecord v-if="!register.data.value" :query="register" inline />
    <p v-else-if="!inForce.length" class="small quiet">{{ t('bench.the-register-is-empty') }}</p>
    <p v-if="finds && !mayEnter" class="small quiet">
      {{ t('bench.a-reviewer-who-did-not-run-this-test') }}
    </p>
    <form v-else @submit.prevent="finds ? enter() : use()">
      <v-text-field v-model="typed.formulation" :label="t('bench.formulation')" />
      <v-text-field v-model="typed.revision" :label="t('bench.revision')" />
      <ActButton :disabled="busy || !typed.formulation.trim() || !typed.revision.trim()">
        {{
          finds
            ? t('bench.enter-density-in-the-register')
            : t('bench.use-density-from-the-register')
        }}
      </ActButton>
    </form>
    <RefusalNote v-model="refused" />
  </section>
</template>

<style scoped>
section,
form {
  display: grid;
  gap: 8px;
}
</style>
