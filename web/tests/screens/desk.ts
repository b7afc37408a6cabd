import { useSession } from '@/app/session'
import { serve } from '../serve'

/** Who is signed in at this desk, and what they may do. */
export async function signedIn(...may: string[]): Promise<void> {
  const writing = { decimal_sign: 'point', date_style: 'named', units: 'metric' }
  const me = { id: 1, name: 'Ines', role: 'technician', may, writing }
  serve({ 'GET /api/session': me })
  await useSession().look()
}
