<script setup lang="ts">
import { t } from '@/ui/words'
import { useQueryClient } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraftOf } from '@/ui/drafts'
import { vFocus } from '@/ui/focus'
import RefusalNote from '@/ui/RefusalNote.vue'

/** What the office keeps about a client. */
const props = defineProps<{ from: Schemas['ClientPage'] | null }>()
const emit = defineEmits<{ saved: [name: string]; leave: [] }>()
const queries = useQueryClient()
const { act, refused, busy } = useAct()
type Contact = Required<Schemas['Contact']>
const emptyContact = (): Contact => ({
  name: '',
  role: '',
  email: '',
  phone: '',
  gets_reports: false,
})
const typed = reactive({
  name: props.from?.name ?? '',
  contacts: (props.from?.contacts ?? []).map((each) => ({ ...emptyContact(), ...each })),
  addresses: (props.from?.addresses ?? []).map((each) => ({ ...each })),
  paper: props.from?.paper ?? ('A4' as const),
  collects_reports: props.from?.collects_reports ?? false,
  remark: props.from?.remark ?? '',
  seen: props.from?.revision ?? 0,
})
const draft = useDraftOf(() => `client/${props.from?.name ?? 'new'}`, typed)
draft.begin()
const tried = ref(false)

async function save() {
  tried.value = true
  if (!typed.name.trim()) return
  const body = {
    ...typed,
    contacts: typed.contacts.filter((each) => each.name.trim() || each.email.trim()),
    addresses: typed.addresses.filter((each) => each.text.trim()),
  }
  await act(async () => {
    const page = await ask(client.PUT('/api/client', { body }))
    queries.setQueryData(['client', page.name], page)
    draft.saved()
    emit('saved', page.name)
  })
}
</script>

<template>
  <form @submit.prevent="save">
    <header>
      <h2>{{ from?.name ?? t('office.new-client') }}</h2>
      <div class="acts">
        <ActButton type="button" @click="(draft.discard(), emit('leave'))">{{
          t('office.cancel')
        }}</ActButton>
        <ActButton kind="main" :disabled="busy">{{ t('office.save-client') }}</ActButton>
      </div>
    </header>
    <DraftNote :draft="draft" />
    <RefusalNote v-model="refused" />
    <v-text-field
      v-if="!from"
      v-model="typed.name"
      v-focus
      :label="t('office.name-as-on-the-jobs')"
      maxlength="120"
      :error-messages="tried && !typed.name.trim() ? t('products.required') : undefined"
    />
    <section>
      <h3>{{ t('office.contacts') }}</h3>
      <div v-for="(contact, place) in typed.contacts" :key="place" class="fields">
        <v-text-field v-model="contact.name" density="compact" :label="t('office.name')" />
        <v-text-field v-model="contact.role" density="compact" :label="t('office.role')" />
        <v-text-field
          v-model="contact.email"
          density="compact"
          type="email"
          :label="t('office.email')"
        />
        <v-text-field v-model="contact.phone" density="compact" :label="t('office.phone')" />
        <v-checkbox
          v-model="contact.gets_reports"
          density="compact"
          :label="t('office.gets-the-reports')"
        />
        <ActButton
          type="button"
          kind="plain"
          class="small"
          @click="typed.contacts.splice(place, 1)"
          >{{ t('office.remove') }}</ActButton
        >
      </div>
      <ActButton type="button" kind="link" @click="typed.contacts.push(emptyContact())">{{
        t('office.add-contact')
      }}</ActButton>
    </section>
    <section>
      <h3>{{ t('office.addresses') }}</h3>
      <div v-for="(address, place) in typed.addresses" :key="place" class="address">
        <v-text-field v-model="address.purpose" density="compact" :label="t('office.purpose')" />
        <v-textarea
          v-model="address.text"
          density="compact"
          rows="2"
          :label="t('office.address')"
        />
        <ActButton
          type="button"
          kind="plain"
          class="small"
          @click="typed.addresses.splice(place, 1)"
          >{{ t('office.remove') }}</ActButton
        >
      </div>
      <ActButton
        type="button"
        kind="link"
        @click="typed.addresses.push({ purpose: t('office.reports-purpose'), text: '' })"
        >{{ t('office.add-address') }}</ActButton
      >
    </section>
    <section class="fields">
      <v-select v-model="typed.paper" :items="['A4', 'Letter']" :label="t('office.paper')" />
      <v-checkbox
        v-model="typed.collects_reports"
        :label="t('office.reports-are-collected-at-the-counter')"
      />
    </section>
    <v-text-field v-model="typed.remark" :label="t('office.remark')" maxlength="500" />
  </form>
</template>

<style scoped src="./pane.css"></style>
<style scoped>
section {
  display: grid;
  gap: 12px;
  align-content: start;
}

section {
  justify-items: start;
}

section > div {
  width: 100%;
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
  gap: 8px 12px;
  align-items: center;
}

.address {
  display: grid;
  grid-template-columns: 180px minmax(0, 1fr) max-content;
  gap: 8px 12px;
  align-items: start;
}
</style>
