<script setup lang="ts">
/** The void codes of a method, as keys 1, 2, 3. */
defineProps<{ codes: Record<string, string>[]; quiet?: boolean; busy: boolean }>()
const emit = defineEmits<{ void: [code: string] }>()
</script>

<template>
  <section class="voids">
    <h3>{{ quiet ? 'Void it after all' : 'If it does not count' }}</h3>
    <button
      v-for="(code, place) in codes"
      :key="code.code"
      class="act"
      :disabled="busy"
      :title="code.says"
      @click="emit('void', code.code!)"
    >
      {{ code.title }} <kbd>{{ place + 1 }}</kbd>
    </button>
  </section>
</template>

<style scoped>
.voids {
  display: grid;
  gap: 7px;
}
</style>
