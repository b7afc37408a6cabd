<script setup lang="ts">
/**
 * What can be pressed: a button, or a link where it leads somewhere. As an HTML button it submits the form
 * that it stands in unless its type says otherwise. `link` stands in running text, `plain` is a row or a
 * value that opens something.
 */
withDefaults(
  defineProps<{
    kind?: 'usual' | 'main' | 'stop' | 'link' | 'plain'
    type?: 'submit' | 'button'
    to?: string
    href?: string
  }>(),
  { kind: 'usual', type: 'submit', to: undefined, href: undefined },
)
</script>

<template>
  <v-btn
    :to="to"
    :href="href"
    :type="to || href ? undefined : type"
    :class="
      kind === 'link' || kind === 'plain' ? ['plain', { link: kind === 'link' }] : ['act', kind]
    "
  >
    <slot />
  </v-btn>
</template>
