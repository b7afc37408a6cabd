import { t } from '@/ui/words'
import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type JobLine = Schemas['JobLine']
export type JobView = Schemas['JobView']
export type TestView = Schemas['TestView']
export type SpecimenView = Schemas['SpecimenView']
export type JudgedRow = Schemas['JudgedRow']
export type LimitRuleView = Schemas['LimitRuleView']
export type SheetView = Schemas['SheetView']
export type PlacedSpecimen = Schemas['PlacedSpecimen']
export type BrokenRule = Schemas['BrokenRuleView']
export type RunView = Schemas['RunView']
export type LivePiece = Schemas['LivePiece']
export type DraftView = Schemas['DraftView']
export type MethodLine = Schemas['MethodLine']
export type ConditioningView = Schemas['ConditioningView']
export type ClockView = Schemas['ClockView']
export type Me = Schemas['Me']

/** A refusal as the server words it; `detail` is written for the person. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly field: string | null = null,
    readonly code: string = '',
  ) {
    super(detail)
  }
}

export const client = createClient<paths>({ baseUrl: '/' })

export const UNREACHABLE = t('api.the-server-does-not-answer-what-was')

/** The answer, or a Problem thrown with the server's own sentence. */
export async function ask<T>(
  request: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let settled
  try {
    settled = await request
  } catch {
    throw new Problem(0, UNREACHABLE)
  }
  if (settled.response.ok) return settled.data as T
  throw asProblem(settled.response.status, settled.error)
}

export function asProblem(status: number, body: unknown): Problem {
  if (body && typeof body === 'object' && 'detail' in body) {
    const given = body as Schemas['Problem']
    return new Problem(status, given.detail, given.field ?? null, given.type.split(':')[1])
  }
  return new Problem(status, UNREACHABLE)
}

export function sentence(error: unknown): string {
  return error instanceof Problem ? error.detail : t('api.something-went-wrong-on-this-page')
}
