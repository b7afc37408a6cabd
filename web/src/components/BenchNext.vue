<script setup lang="ts">
/** The one next action at the bench, and why. */
defineProps<{
  step: { title: string; why: string; act: string; key: string; kind?: 'stop'; go: () => unknown }
  busy: boolean
}>()
</script>

<template>
  <section class="next">
    <h2>{{ step.title }}</h2>
    <p class="quiet">{{ step.why }}</p>
    <button class="act main" :class="step.kind" :disabled="busy" @click="step.go()">
      {{ step.act }} <kbd>{{ step.key === 'Escape' ? 'Esc' : step.key }}</kbd>
    </button>
  </section>
</template>

<style scoped>
.next {
  display: grid;
  gap: 7px;
}

h2 {
  font-size: 21px;
}

.act {
  margin-top: 4px;
  padding: 9px 16px;
  text-align: left;
}
</style>
