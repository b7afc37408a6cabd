<script setup lang="ts">
import ActButton from '@/ui/ActButton.vue'
/** What the flame did, picked from a drawing: how far it came, and what of the cloth it took. */
defineProps<{ labels: Record<string, string>; title: string }>()
const picked = defineModel<string>()

interface Drawn {
  /** Flames along the cloth, from its lower edge (0) to the thread (1). */
  flames: number[]
  /** The part of the base that burned, from and to. */
  base: [number, number] | null
  thread: boolean
}
const DRAWN: Record<string, Drawn> = {
  DNI: { flames: [], base: null, thread: true },
  IBE: { flames: [0.1], base: [0, 0.15], thread: true },
  BURN: { flames: [0.3, 0.6, 0.9], base: [0, 1], thread: false },
  SFuc: { flames: [0.15, 0.5, 0.85], base: null, thread: true },
  SFpw: { flames: [0.15, 0.45], base: null, thread: true },
  SFpoi: { flames: [0.08], base: null, thread: true },
  SFonly: { flames: [0.2, 0.55, 0.9], base: null, thread: false },
  SFBB: { flames: [0.2, 0.55, 0.9], base: [0.4, 0.75], thread: false },
  SFBBpoi: { flames: [0.2, 0.55, 0.9], base: [0, 0.3], thread: false },
  'SFBBpoi*': { flames: [0.2, 0.55, 0.9], base: [0, 0.3], thread: false },
}
const at = (part: number) => ({ x: 8 + 44 * part, y: 48 - 36 * part })
const line = (from: number, to: number) => `M${at(from).x} ${at(from).y}L${at(to).x} ${at(to).y}`
const flame = (part: number) => `M${at(part).x - 3} ${at(part).y - 2}q-3 -7 3 -13q1 5 4 7q0 5 -2 6z`
</script>

<template>
  <fieldset class="codes">
    <legend class="small quiet">{{ title }}</legend>
    <ActButton
      v-for="(text, code) in labels"
      :key="code"
      kind="plain"
      type="button"
      :aria-pressed="picked === code"
      :class="{ on: picked === code }"
      :title="text"
      @click="picked = String(code)"
    >
      <svg v-if="DRAWN[code]" viewBox="0 0 60 56" aria-hidden="true">
        <path :d="line(0, 1)" class="cloth" />
        <path v-if="DRAWN[code].base" :d="line(...DRAWN[code].base)" class="burned" />
        <path v-for="part in DRAWN[code].flames" :key="part" :d="flame(part)" class="flame" />
        <path v-if="DRAWN[code].thread" d="M46 4l12 14" class="thread" />
        <text v-if="String(code).endsWith('*')" x="6" y="16">?</text>
      </svg>
      <b class="mono">{{ code }}</b>
      <span class="small">{{ text }}</span>
    </ActButton>
  </fieldset>
</template>

<style scoped>
.codes {
  display: grid;
  gap: 4px;
  width: 100%;
  padding: 0;
  border: 0;
}

button {
  display: grid;
  grid-template: auto auto / 54px minmax(0, 1fr);
  column-gap: 10px;
  align-items: center;
  min-height: 52px;
  padding: 3px 8px;
  border: 1.5px solid var(--hair);
  border-radius: 7px;
  background: var(--page);
  color: var(--ink);
  font: inherit;
  line-height: 1.2;
  text-align: left;
  cursor: pointer;
}

button.on {
  border-color: var(--blue);
  background: var(--blue-wash);
}

svg {
  grid-row: 1 / 3;
  width: 54px;
}

path {
  fill: none;
  stroke-width: 3.5;
}

.cloth {
  stroke: var(--ink-3);
}

.burned {
  stroke: var(--ink);
  stroke-width: 6;
}

.flame {
  fill: var(--brick);
}

.thread {
  stroke: var(--ink);
  stroke-width: 1.5;
}
</style>
