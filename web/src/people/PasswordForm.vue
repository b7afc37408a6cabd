<script setup lang="ts">
import { t } from '@/ui/words'
import { ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { useSession } from '@/app/session'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'

/** A new password: one's own with the old one, after which one signs in again. */
const props = defineProps<{ person: Schemas['PersonView']; own: boolean }>()
const { look } = useSession()
const { act, refused, busy } = useAct()
const old = ref('')
const fresh = ref('')
const done = ref(false)

async function set() {
  done.value = await act(() =>
    ask(
      client.PUT('/api/people/{person_id}/password', {
        params: { path: { person_id: props.person.id } },
        body: { password: fresh.value, old_password: old.value },
      }),
    ),
  )
  if (!done.value) return
  old.value = fresh.value = ''
  if (props.own) await look()
}
</script>

<template>
  <form @submit.prevent="set">
    <h3>{{ own ? t('people.your-password') : t('people.password') }}</h3>
    <p class="quiet small">
      {{ t('people.everyone-signed-in-as-is-signed-out', { login: person.login }) }}
    </p>
    <div class="row">
      <v-text-field
        v-if="own"
        v-model="old"
        type="password"
        :label="t('people.current-password')"
        autocomplete="current-password"
      />
      <v-text-field
        v-model="fresh"
        type="password"
        :label="t('people.new-password-min-10')"
        autocomplete="new-password"
      />
      <ActButton :disabled="busy || !fresh">{{ t('people.set-password') }}</ActButton>
    </div>
    <p v-if="done" class="small" role="status">{{ t('people.password-changed') }}</p>
    <RefusalNote v-model="refused" />
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}

.row {
  display: flex;
  gap: 12px;
  align-items: center;
  max-width: 640px;
}
</style>
