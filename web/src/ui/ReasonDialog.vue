<script setup lang="ts">
import { vFocus } from '@/ui/focus'
import ActButton from '@/ui/ActButton.vue'
import { ref, watch } from 'vue'

/** Asks for a reason in words before something that needs one. */
defineProps<{ title: string; says: string; act: string }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ given: [reason: string] }>()
const reason = ref('')
watch(open, () => (reason.value = ''))

function give() {
  const words = reason.value.trim()
  emit('given', words)
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="500">
    <form class="leaf" @submit.prevent="give">
      <h2>{{ title }}</h2>
      <p>{{ says }}</p>
      <v-text-field v-model="reason" v-focus label="Reason" maxlength="300" />
      <footer>
        <ActButton type="button" @click="open = false">Cancel</ActButton>
        <ActButton kind="main" :disabled="!reason.trim()">{{ act }}</ActButton>
      </footer>
    </form>
  </v-dialog>
</template>
