import { reactive } from 'vue'
import type { Schemas } from '@/api/client'

/** How the laboratory writes figures and days; it comes with the session of whoever signs in. */
export const writing = reactive<Required<Schemas['Writing']>>({
  decimal_sign: 'point',
  date_style: 'named',
  units: 'metric',
})
