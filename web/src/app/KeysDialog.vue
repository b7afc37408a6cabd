<script setup lang="ts">
import { t } from '@/ui/words'
import { listedKeys } from '@/ui/keys'

const open = defineModel<boolean>({ required: true })
const everywhere = [
  ['/', t('app.type-the-code-of-a-specimen')],
  ['g then j c h b v', t('app.go-to-jobs-cutting-conditioning-bench')],
  ['Ctrl K', t('app.find-an-action-screen-job-or-method')],
  ['?', t('app.show-the-keyboard-shortcuts')],
  ['Esc', t('app.close-the-dialog')],
]
</script>

<template>
  <v-dialog v-model="open" max-width="480">
    <div class="leaf">
      <h2>{{ t('app.keyboard-shortcuts') }}</h2>
      <dl>
        <template v-for="use in open ? listedKeys() : []" :key="use.key">
          <dt>
            <kbd>{{ use.key }}</kbd>
          </dt>
          <dd>{{ use.text }}</dd>
        </template>
        <template v-for="[key, text] in everywhere" :key="key">
          <dt>
            <kbd>{{ key }}</kbd>
          </dt>
          <dd class="quiet">{{ text }}</dd>
        </template>
      </dl>
    </div>
  </v-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 9px 18px;
  margin: 16px 0 0;
}

dd {
  margin: 0;
}
</style>
