<script setup lang="ts">
import { t } from '@/ui/words'
import { ref } from 'vue'
import ActButton from '@/ui/ActButton.vue'

/** The signature under a report: the password again, by whom may release it. */
defineProps<{ name: string; busy: boolean }>()
const emit = defineEmits<{ release: [password: string] }>()
const password = ref('')
function sign() {
  emit('release', password.value)
  password.value = ''
}
</script>

<template>
  <form @submit.prevent="sign">
    <input
      class="hide"
      autocomplete="username"
      :value="name"
      readonly
      tabindex="-1"
      aria-hidden="true"
    />
    <v-text-field
      v-model="password"
      type="password"
      :label="t('judging.your-password')"
      autocomplete="current-password"
    />
    <ActButton kind="main" :disabled="busy || !password">
      {{ busy ? t('judging.creating-the-report') : t('judging.release-report') }}
      <kbd>{{ t('judging.enter') }}</kbd>
    </ActButton>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
}

.hide {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
</style>
