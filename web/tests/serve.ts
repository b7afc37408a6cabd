import { flushPromises, type VueWrapper } from '@vue/test-utils'

/** One request that a component sent: its method and path as one word, its query and its body. */
export interface Sent {
  to: string
  query: Record<string, string>
  body: unknown
}

/** A refusal, as the server writes it. */
export class Refused {
  constructor(
    readonly detail: string,
    readonly code = 'test.refused',
    readonly status = 409,
  ) {}
}

type Answer = unknown

let answers: Record<string, Answer> = {}
let sent: Sent[] = []

/**
 * A server for one test: what it answers by method and path, as in `GET /api/jobs`. A function is given
 * the request. Whatever it is not told to answer never comes. The requests are returned as they arrive.
 */
export function serve(given: Record<string, Answer>): Sent[] {
  answers = given
  sent = []
  return sent
}

/** What stands in for `fetch` in every test. */
export async function answering(
  requested: Request | string,
  options?: RequestInit,
): Promise<Response> {
  const request = typeof requested === 'string' ? null : requested
  const url = new URL(request?.url ?? (requested as string), 'http://localhost')
  const method = request?.method ?? options?.method ?? 'GET'
  const to = `${method} ${url.pathname}`
  const text = request ? await request.text() : ''
  const body: unknown = text ? JSON.parse(text) : (options?.body ?? null)
  const arrived = { to, query: Object.fromEntries(url.searchParams), body }
  sent.push(arrived)
  if (!(to in answers)) return new Promise(() => undefined)
  const known = answers[to]
  const answer: unknown =
    typeof known === 'function' ? (known as (s: Sent) => unknown)(arrived) : known
  const headers = { 'content-type': 'application/json' }
  if (answer instanceof Refused) {
    const problem = { type: `endurant:${answer.code}`, detail: answer.detail, code: answer.code }
    return new Response(JSON.stringify(problem), { status: answer.status, headers })
  }
  return new Response(JSON.stringify(answer ?? null), { status: 200, headers })
}

/** The requests that changed something. */
export const changes = (all: Sent[]) => all.filter((each) => !each.to.startsWith('GET '))

/** Everything that was asked for has come, and stands on the page. */
export async function settled(): Promise<void> {
  for (let round = 0; round < 6; round += 1) {
    await flushPromises()
    await new Promise((later) => setTimeout(later, 0))
  }
}

/** A button anywhere on the page, by the beginning of its words. */
export function button(text: string): HTMLButtonElement {
  const found = [...document.querySelectorAll<HTMLButtonElement>('button, [role="button"]')].find(
    (each) => each.textContent?.replace(/\s+/g, ' ').trim().startsWith(text),
  )
  if (!found) throw new Error(`There is no button ${text}.`)
  return found
}

export async function press(text: string): Promise<void> {
  button(text).click()
  await settled()
}

/** A field anywhere on the page, by its label. */
export function field(label: string): HTMLInputElement {
  const named = [...document.querySelectorAll('label')].find(
    (each) => each.textContent?.trim() === label && each.htmlFor,
  )
  const found = named && document.getElementById(named.htmlFor)
  if (!(found instanceof HTMLInputElement || found instanceof HTMLTextAreaElement))
    throw new Error(`There is no field ${label}.`)
  return found as HTMLInputElement
}

export async function fill(label: string, text: string): Promise<void> {
  const input = field(label)
  input.value = text
  input.dispatchEvent(new Event('input', { bubbles: true }))
  input.dispatchEvent(new Event('change', { bubbles: true }))
  await settled()
}

/** Send the form that is open: what Enter does. */
export async function submit(selector = 'form'): Promise<void> {
  document
    .querySelector(selector)!
    .dispatchEvent(new Event('submit', { cancelable: true, bubbles: true }))
  await settled()
}

export const shown = () => document.body.textContent?.replace(/\s+/g, ' ') ?? ''

/** Choose an item of a select or an autocomplete, by its label. */
export async function choose(mounted: VueWrapper, label: string, value: unknown): Promise<void> {
  const kinds = ['VSelect', 'VAutocomplete', 'VCombobox']
  const found = kinds
    .flatMap((name) => mounted.findAllComponents({ name }) as VueWrapper[])
    .find((each) => (each.props() as { label?: string }).label === label)
  if (!found) throw new Error(`There is no choice ${label}.`)
  found.vm.$emit('update:modelValue', value)
  await settled()
}

/** A part of the kit inside what is mounted, by its name and, where there are several, by its label. */
export function part(mounted: VueWrapper, name: string, label?: string): VueWrapper {
  const all = mounted.findAllComponents({ name }) as VueWrapper[]
  const found = all.find(
    (each) => label === undefined || (each.props() as { label?: string }).label === label,
  )
  if (!found) throw new Error(`There is no ${name} ${label ?? ''}.`)
  return found
}
