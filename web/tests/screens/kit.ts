import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { h, type Component } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { createVuetify } from 'vuetify'

interface Around {
  slots?: Record<string, string>
  /** What the server answered already, by the key of its query. */
  answers?: Record<string, unknown>
}

const shown: VueWrapper[] = []

/** Take everything off the page that a test put there, with its listeners. */
export function unmountAll() {
  for (const mounted of shown.splice(0)) mounted.unmount()
  document.body.replaceChildren()
}

/** A component as the application shows it: with the kit, the router and the queries. */
export function mountInKit(component: Component, props: object = {}, around: Around = {}) {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)', component: { render: () => h('p') } }],
  })
  const queryClient = new QueryClient({
    defaultOptions: { queries: { retry: false, staleTime: Infinity } },
  })
  for (const [key, answer] of Object.entries(around.answers ?? {}))
    queryClient.setQueryData([key], answer)
  const plugins = [router, createVuetify(), [VueQueryPlugin, { queryClient }] as const]
  const mounted = mount(component, {
    props,
    slots: around.slots,
    attachTo: document.body,
    global: { plugins: plugins as never },
  }) as VueWrapper
  shown.push(mounted)
  return mounted
}

/** The element of a field with this label, as a person finds it. */
export function fieldOf(mounted: VueWrapper, label: string): HTMLInputElement {
  const named = mounted
    .findAll('label')
    .find((each) => each.text() === label && each.attributes('for'))
  const id = named?.attributes('for')
  const field: unknown = id ? mounted.find(`#${id}`).element : null
  if (!(field instanceof HTMLInputElement)) throw new Error(`There is no field ${label}.`)
  return field
}

/** Type into a field, as a person does. */
export async function type(mounted: VueWrapper, label: string, text: string): Promise<void> {
  const field = fieldOf(mounted, label)
  await mounted.find(`#${field.id}`).setValue(text)
  await flushPromises()
}
