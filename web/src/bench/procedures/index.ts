import type { Component } from 'vue'
import BurstProcedure from '@/bench/procedures/BurstProcedure.vue'
import RigProcedure from '@/bench/procedures/RigProcedure.vue'
import SeriesProcedure from '@/bench/procedures/SeriesProcedure.vue'
import StepsProcedure from '@/bench/procedures/StepsProcedure.vue'
import SwingProcedure from '@/bench/procedures/SwingProcedure.vue'
import TraceProcedure from '@/bench/procedures/TraceProcedure.vue'
import WeighProcedure from '@/bench/procedures/WeighProcedure.vue'

/** What each kind of test looks like; a method names its procedure. */
export const PROCEDURES: Record<string, Component> = {
  trace: TraceProcedure,
  'paired-trace': TraceProcedure,
  burst: BurstProcedure,
  rig: RigProcedure,
  weigh: WeighProcedure,
  swing: SwingProcedure,
  staircase: SeriesProcedure,
  looks: SeriesProcedure,
  grades: SeriesProcedure,
  drops: SeriesProcedure,
  cuts: SeriesProcedure,
  leak: StepsProcedure,
  burn: StepsProcedure,
}
