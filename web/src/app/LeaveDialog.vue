<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { leaveQuestion } from '@/app/leaving'
import ActButton from '@/ui/ActButton.vue'

/** Asks before a form with unsaved entries is left. */
const open = computed({
  get: () => leaveQuestion.value !== null,
  set: () => leaveQuestion.value?.(false),
})
</script>

<template>
  <v-dialog v-model="open" max-width="480">
    <form v-if="open" class="leaf" @submit.prevent="open = false">
      <h2>{{ t('app.leave-without-saving') }}</h2>
      <p>{{ t('app.entries-stay-on-this-computer') }}</p>
      <footer>
        <ActButton type="button" @click="leaveQuestion?.(true)">{{
          t('app.leave-form')
        }}</ActButton>
        <ActButton kind="main" autofocus>{{ t('app.stay') }}</ActButton>
      </footer>
    </form>
  </v-dialog>
</template>
