import type { Schemas } from '@/api/client'
import { figureFrom } from '@/ui/numbers'

/** One stage of conditioning as it is typed, times in minutes. */
export interface StageTyped {
  atmosphere: string
  least: string
  wait: string
  why: string
}

export const newStage = (): StageTyped => ({
  atmosphere: 'chamber',
  least: '30',
  wait: '',
  why: '',
})

/** Stages of the server as a form shows them. */
export const typedStages = (stages: readonly Schemas['StageRequest'][]): StageTyped[] =>
  stages.map((stage) => ({
    atmosphere: stage.atmosphere,
    least: String(stage.least_minutes),
    wait:
      stage.most_wait_minutes === null || stage.most_wait_minutes === undefined
        ? ''
        : String(stage.most_wait_minutes),
    why: stage.why ?? '',
  }))

/** Stages as they are sent. */
export const stagesOf = (typed: readonly StageTyped[]): Schemas['StageRequest'][] =>
  typed.map((stage) => ({
    atmosphere: stage.atmosphere,
    least_minutes: figureFrom(stage.least),
    most_wait_minutes: stage.wait.trim() ? figureFrom(stage.wait) : null,
    why: stage.why,
  }))
