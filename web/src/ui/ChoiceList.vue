<script setup lang="ts">
/** What can be chosen by arrow keys, Enter or a press; the field above names `id` and the marked place. */
defineProps<{
  id: string
  name: string
  choices: { key: string; kind?: string; title: string; text: string }[]
}>()
const place = defineModel<number>({ required: true })
defineEmits<{ choose: [place: number] }>()
</script>

<template>
  <ul :id="id" role="listbox" :aria-label="name">
    <li
      v-for="(choice, at) in choices"
      :id="`${id}-${at}`"
      :key="choice.key"
      role="option"
      :aria-selected="at === place"
      @click="$emit('choose', at)"
      @pointerenter="place = at"
    >
      <span v-if="choice.kind" class="small quiet kind">{{ choice.kind }}</span>
      <b>{{ choice.title }}</b>
      <span class="small quiet text">{{ choice.text }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}

li {
  display: flex;
  gap: 12px;
  align-items: baseline;
  padding: 8px 10px;
  border-left: 4px solid transparent;
  cursor: pointer;
}

li[aria-selected='true'] {
  border-color: var(--blue);
  background: var(--sunk);
}

.kind {
  flex: 0 0 80px;
}

b {
  flex: none;
  max-width: 75%;
}

.text {
  flex: 1;
  overflow: hidden;
  text-align: right;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
