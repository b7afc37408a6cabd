import { useStorage } from '@vueuse/core'
import { computed, ref, watch, type ComputedRef } from 'vue'

export interface Tape {
  whose: string
  text: string
  ends_at: string
  left: number
}

const FLASH_MS = 4000
const BEEPS = 3
const FRESH_MS = 60_000

/** The tapes that have run out since they were looked at last; those that were out before are not. */
export function runOut(before: Map<string, number>, tapes: Tape[]): Tape[] {
  return tapes.filter((tape) => {
    const left = before.get(keyOf(tape))
    return left !== undefined && left > 0 && tape.left <= 0 && tape.left > -FRESH_MS
  })
}

export function keyOf(tape: Tape): string {
  return `${tape.whose} ${tape.text} ${tape.ends_at}`
}

export const ALARMS = ['flash', 'sound', 'none'] as const
/** How a clock that runs out makes itself known. */
export type Alarm = (typeof ALARMS)[number]

/** The alarm after this one, as its button goes round. */
export function nextAlarm(alarm: Alarm): Alarm {
  return ALARMS[(ALARMS.indexOf(alarm) + 1) % ALARMS.length]!
}

function beep() {
  const audio = new AudioContext()
  for (let turn = 0; turn < BEEPS; turn += 1) {
    const tone = audio.createOscillator()
    const volume = audio.createGain()
    tone.frequency.value = 880
    volume.gain.value = 0.12
    tone.connect(volume).connect(audio.destination)
    tone.start(audio.currentTime + turn * 0.35)
    tone.stop(audio.currentTime + turn * 0.35 + 0.2)
  }
}

/** A clock that runs out is seen, heard where that is asked for, and told, once in each browser. */
export function useAlarms(tapes: ComputedRef<Tape[]>) {
  const alarm = useStorage<Alarm>('alarm', 'flash')
  const flashing = ref(false)
  let before = new Map<string, number>()
  watch(tapes, (now) => {
    const out = runOut(before, now)
    before = new Map(now.map((tape) => [keyOf(tape), tape.left]))
    if (!out.length || alarm.value === 'none') return
    flashing.value = true
    window.setTimeout(() => (flashing.value = false), FLASH_MS)
    if (alarm.value === 'sound') beep()
    if ('Notification' in window && Notification.permission === 'granted')
      for (const tape of out) new Notification(tape.text, { body: tape.whose })
  })
  function change() {
    alarm.value = nextAlarm(alarm.value)
    if (
      alarm.value === 'sound' &&
      'Notification' in window &&
      Notification.permission === 'default'
    )
      void Notification.requestPermission()
  }
  return { alarm: computed(() => alarm.value), flashing, change }
}
