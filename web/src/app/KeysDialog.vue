<script setup lang="ts">
import { t } from '@/ui/words'
import { KEYED_PAGES } from '@/app/pages'
import { listedKeys } from '@/ui/keys'

const open = defineModel<boolean>({ required: true })
const everywhere = [
  ['/', t('app.type-the-code-of-a-specimen')],
  ['Ctrl K', t('app.find-an-action-screen-job-or-method')],
  ['?', t('app.show-the-keyboard-shortcuts')],
  ['Esc', t('app.close-the-dialog')],
  ['F1', t('app.explain-the-field')],
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
      <h3>{{ t('app.go-to-a-screen') }}</h3>
      <p class="pages">
        <span v-for="page in KEYED_PAGES" :key="page.to"
          ><kbd>g</kbd> <kbd>{{ page.key }}</kbd> {{ page.text }}</span
        >
      </p>
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

h3 {
  margin-top: 18px;
}

.pages {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 7px 18px;
}
</style>
