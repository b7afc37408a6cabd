<script setup lang="ts">
import { listedKeys } from '@/ui/keys'

const open = defineModel<boolean>({ required: true })
const everywhere = [
  ['/', 'type the code of a specimen'],
  ['g then j c h b v', 'go to Jobs, Cutting, Conditioning, Bench, Review'],
  ['Ctrl K', 'find an action, screen, job or method'],
  ['?', 'show the keyboard shortcuts'],
  ['Esc', 'close the dialog'],
]
</script>

<template>
  <v-dialog v-model="open" max-width="480">
    <div class="leaf">
      <h2>Keyboard shortcuts</h2>
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
