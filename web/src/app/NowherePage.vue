<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import StateNote from '@/ui/StateNote.vue'
</script>

<template>
  <StateNote
    :title="t('app.page-not-found')"
    :text="t('app.the-address-may-be-wrong-or-the-record')"
  >
    <ActButton to="/jobs">{{ t('app.go-to-jobs') }}</ActButton>
  </StateNote>
</template>
