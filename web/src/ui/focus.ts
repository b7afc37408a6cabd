import type { Directive } from 'vue'

/**
 * Puts the caret into the field as it appears. Vuetify's own `autofocus` waits until the field is seen, and
 * may take the caret back from whoever is already typing in the next one.
 */
export const vFocus: Directive<HTMLElement> = {
  mounted: (element) => {
    const field = element.matches('input, textarea')
      ? element
      : element.querySelector<HTMLElement>('input, textarea')
    field?.focus()
  },
}
