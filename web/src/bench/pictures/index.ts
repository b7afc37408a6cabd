import type { Component } from 'vue'
import BurstPicture from '@/bench/pictures/BurstPicture.vue'
import RigPicture from '@/bench/pictures/RigPicture.vue'
import SeriesPicture from '@/bench/pictures/SeriesPicture.vue'
import StepsPicture from '@/bench/pictures/StepsPicture.vue'
import SwingPicture from '@/bench/pictures/SwingPicture.vue'
import TracePicture from '@/bench/pictures/TracePicture.vue'
import WeighPicture from '@/bench/pictures/WeighPicture.vue'

/** What each kind of test looks like; a method names its picture. */
export const PICTURES: Record<string, Component> = {
  trace: TracePicture,
  'paired-trace': TracePicture,
  burst: BurstPicture,
  rig: RigPicture,
  weigh: WeighPicture,
  swing: SwingPicture,
  staircase: SeriesPicture,
  looks: SeriesPicture,
  grades: SeriesPicture,
  drops: SeriesPicture,
  cuts: SeriesPicture,
  leak: StepsPicture,
  burn: StepsPicture,
}
