<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'
import { capital } from '@/ui/phrases'

/** The plan as a file, or as an address that a calendar subscribes to until it is revoked. */
const open = defineModel<boolean>({ required: true })
const { act, refused, busy } = useAct()
const address = useQuery({
  queryKey: ['calendar-address'],
  queryFn: () => ask(client.GET('/api/calendar-address')),
  enabled: open,
})
const made = ref('')
const madeAt = computed(() => address.data.value?.made_at ?? null)
const make = () =>
  act(async () => {
    const { path } = await ask(client.POST('/api/calendar-address'))
    made.value = path ? window.location.origin + path : ''
  }, ['calendar-address'])
const revoke = () =>
  act(async () => {
    await ask(client.DELETE('/api/calendar-address'))
    made.value = ''
  }, ['calendar-address'])
</script>

<template>
  <v-dialog v-model="open" max-width="560">
    <section class="leaf">
      <h2>{{ capital(t('today.calendar')) }}</h2>
      <p>
        <a href="/api/schedule/calendar.ics">{{ t('today.download-the-plan') }}</a>
      </p>
      <p>{{ t('today.a-calendar-can-subscribe') }}</p>
      <v-text-field
        v-if="made"
        readonly
        class="mono"
        :model-value="made"
        :label="t('today.your-address')"
        :hint="t('today.it-is-shown-once')"
        persistent-hint
        @focus="($event.target as HTMLInputElement).select()"
      />
      <p v-else-if="madeAt" class="small quiet">
        {{ t('today.you-have-an-address', { day: dayOf(madeAt) }) }}
      </p>
      <RefusalNote v-model="refused" />
      <footer>
        <ActButton v-if="madeAt" :disabled="busy" @click="revoke">{{
          t('today.revoke-the-address')
        }}</ActButton>
        <ActButton :disabled="busy" @click="make">{{
          madeAt ? t('today.make-a-new-address') : t('today.make-an-address')
        }}</ActButton>
        <ActButton kind="main" @click="open = false">{{ t('today.close') }}</ActButton>
      </footer>
    </section>
  </v-dialog>
</template>

<style scoped>
.leaf {
  display: grid;
  gap: 12px;
}

footer {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  justify-content: flex-end;
}
</style>
