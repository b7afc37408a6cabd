import { t } from '@/ui/words'
import type { LimitRuleView } from '@/api/client'
import { signed } from '@/ui/numbers'

/** Where things stand on the rule of a limit: shares of its width in percent. */
export interface RuleScale {
  at: (value: number) => number
  graduations: number[]
  /** Steps between the graduations, a fifth of one each. */
  fine: number[]
  forbidden: { start: number; end: number }[]
  limits: number[]
  interval: readonly [number, number] | null
}

function stepsOf(rule: LimitRuleView, step: number): number[] {
  const count = Math.round((rule.high - rule.low) / step)
  return Array.from({ length: count + 1 }, (_, place) => rule.low + place * step)
}

/** The scale of a rule; what lies beyond its ends stands at its ends. */
export function scaleOf(rule: LimitRuleView): RuleScale {
  const at = (value: number) => {
    const share = (value - rule.low) / (rule.high - rule.low)
    return Math.min(Math.max(share, 0), 1) * 100
  }
  const { mean, half_width } = rule
  return {
    at,
    graduations: stepsOf(rule, rule.step),
    fine: stepsOf(rule, rule.step / 5),
    forbidden: [rule.forbidden, rule.second_forbidden].filter((part) => !!part),
    limits: [rule.limit, rule.second_limit].filter((limit) => limit != null),
    interval:
      mean === null || half_width === null ? null : [at(mean - half_width), at(mean + half_width)],
  }
}

/** The rule in words, for whoever cannot see it. */
export function ruleInWords(rule: LimitRuleView): string {
  const { values, voids, mean, unit, limit_text } = rule
  const figure =
    mean === null ? t('ui.no-result-yet') : t('ui.mean', { mean: mean.toPrecision(3), unit })
  const guard = rule.guarded.length ? ', guarded' : ''
  return t('ui.valid-void-limit', {
    figure,
    values: values.length,
    voids: voids.length,
    limit_text,
    guard,
  })
}

/** A graduation as it is written, without a binary tail. */
export function graduationText(value: number): string {
  return signed(Number(value.toFixed(6)).toString())
}
