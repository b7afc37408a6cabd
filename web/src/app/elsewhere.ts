import { t } from '@/ui/words'
import { ref, watch, type Ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useSession } from '@/app/session'

type Happened = Pick<Schemas['Event'], 'at' | 'who' | 'text'>

const SHOWN_FOR_MS = 8_000
const news = ref('')
let timer: ReturnType<typeof setTimeout> | undefined

function tell(text: string) {
  news.value = text
  clearTimeout(timer)
  timer = setTimeout(() => (news.value = ''), SHOWN_FOR_MS)
}

/** What another person did just now to a job that is open here. */
export function useNews() {
  const dismiss = () => {
    clearTimeout(timer)
    news.value = ''
  }
  return { news, dismiss }
}

/** Show what other people do to a job while it is open here; its history has the newest first. */
export function useElsewhere(job: Ref<{ number: string; events: Happened[] } | undefined>) {
  const { me } = useSession()
  let seen: string | null = null
  watch(
    job,
    (now) => {
      const newest = now?.events[0]?.at
      if (!now || !newest) return
      const before = seen
      seen = newest
      if (before === null) return
      const fresh = now.events.filter(({ at, who }) => at > before && who && who !== me.value?.name)
      if (!fresh.length) return
      const more = fresh.length > 1 ? t('app.and-more', { fresh: fresh.length - 1 }) : ''
      tell(`${now.number}: ${fresh[0]!.text}${more}`)
    },
    { immediate: true },
  )
}
