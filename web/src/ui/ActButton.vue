<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

/** What can be pressed: a button, or a link where it leads somewhere. */
const props = withDefaults(
  defineProps<{ kind?: 'usual' | 'main' | 'stop'; to?: string; href?: string }>(),
  { kind: 'usual', to: undefined, href: undefined },
)
const tag = computed(() => (props.to ? RouterLink : props.href ? 'a' : 'button'))
const target = computed(() =>
  props.to ? { to: props.to } : props.href ? { href: props.href } : {},
)
</script>

<template>
  <component :is="tag" class="act" :class="kind" v-bind="target"><slot /></component>
</template>
