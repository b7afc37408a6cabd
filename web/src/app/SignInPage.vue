<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import ActButton from '@/ui/ActButton.vue'
import { ref } from 'vue'
import { sentence } from '@/api/client'
import RefusalNote from '@/ui/RefusalNote.vue'
import { useSession } from '@/app/session'

defineProps<{ away: boolean }>()
const { signIn } = useSession()
const login = ref('')
const password = ref('')
const refused = ref('')
const busy = ref(false)

async function go() {
  busy.value = true
  refused.value = ''
  try {
    await signIn(login.value.trim(), password.value)
  } catch (error) {
    refused.value = sentence(error)
  }
  busy.value = false
}
</script>

<template>
  <div class="door">
    <svg class="edge" width="100%" height="34" aria-hidden="true">
      <defs>
        <pattern id="graduations" width="100" height="34" patternUnits="userSpaceOnUse">
          <path
            d="M.5 0v22M10.5 0v9M20.5 0v9M30.5 0v9M40.5 0v9M50.5 0v15M60.5 0v9M70.5 0v9M80.5 0v9M90.5 0v9"
          />
        </pattern>
      </defs>
      <rect width="100%" height="34" fill="url(#graduations)" />
    </svg>
    <form @submit.prevent="go">
      <h1>{{ t('app.endurant') }}</h1>
      <p class="quiet">{{ t('app.from-the-parcel-at-the-counter-to-the') }}</p>
      <p v-if="away" class="away" role="status">
        {{ t('app.the-server-or-its-database-does-not') }}
      </p>
      <v-text-field v-model="login" v-focus :label="t('app.login')" autocomplete="username" />
      <v-text-field
        v-model="password"
        :label="t('app.password')"
        type="password"
        autocomplete="current-password"
      />
      <RefusalNote v-model="refused" />
      <ActButton kind="main" :disabled="busy || !login || !password">
        {{ busy ? t('app.signing-in') : t('app.sign-in') }} <kbd>{{ t('app.enter') }}</kbd>
      </ActButton>
    </form>
    <p class="trouser" aria-hidden="true">
      <svg width="150" height="420" viewBox="0 0 150 420">
        <path d="M5 5h140v410H5z" />
        <path d="M71 415V215M79 415V215" />
        <path d="M75 215l-9-16 15-14-13-17 11-15-9-14" class="tear" />
        <path d="M5 60h140" stroke-dasharray="7 6" />
      </svg>
    </p>
  </div>
</template>

<style scoped>
.door {
  display: grid;
  grid-template: 34px 1fr / minmax(340px, 440px) auto;
  gap: 0 12vw;
  align-items: center;
  height: 100dvh;
  padding-left: 10vw;
  overflow: hidden;
  background: var(--page);
}

.edge {
  grid-column: 1 / -1;
  width: 100vw;
  margin-left: -10vw;
}

path {
  fill: none;
  stroke: var(--ink-3);
  stroke-width: 1.5;
}

.trouser path {
  stroke: var(--ink);
  stroke-width: 2;
}

.trouser .tear {
  stroke: var(--brick);
}

form {
  display: grid;
  gap: 14px;
}

h1 {
  font-size: 46px;
}

.away {
  padding: 10px 14px;
  border-left: 5px solid var(--tape);
  background: var(--sunk);
}
</style>
