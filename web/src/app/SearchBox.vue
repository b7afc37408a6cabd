<script setup lang="ts">
import { t } from '@/ui/words'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced, useElementBounding, useWindowSize } from '@vueuse/core'
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { sentence } from '@/api/client'
import ChoiceList from '@/ui/ChoiceList.vue'
import { isTyping } from '@/ui/keys'
import { scanTaker } from '@/app/scanning'
import { addressOf, codeIn, exactly, KIND_WORDS, searchFor, type SearchHit } from '@/app/search'

/** One box for everything that has a number or a name; a scan anywhere leads to what it names. */
const FASTEST_TYPIST_MS = 45
const SHORTEST_SCAN = 6
const router = useRouter()
const field = ref<HTMLInputElement | null>(null)
const box = ref<HTMLFormElement | null>(null)
const { left, top, bottom } = useElementBounding(box)
const { height } = useWindowSize()
const GAP_PX = 8
/** The list stands above the box, or below it where the box is at the top; the navigation would cut it off. */
const beside = computed(() =>
  top.value > height.value / 2
    ? { left: `${left.value}px`, bottom: `${height.value - top.value + GAP_PX}px` }
    : { left: `${left.value}px`, top: `${bottom.value + GAP_PX}px` },
)
const typed = ref('')
const sought = refDebounced(typed, 120)
const place = ref(0)
const text = ref('')
const isOpen = ref(false)
let scanned = ''
let lastAt = 0

const answer = useQuery({
  queryKey: ['search', sought],
  queryFn: () => searchFor(codeIn(sought.value)),
  enabled: computed(() => isOpen.value && sought.value.trim() !== ''),
  placeholderData: keepPreviousData,
})
const hits = computed(() => (typed.value.trim() ? (answer.data.value ?? []) : []))
const choices = computed(() =>
  hits.value.map((hit) => ({
    ...hit,
    key: `${addressOf(hit)} ${hit.title}`,
    kind: KIND_WORDS[hit.kind],
  })),
)
/** What is listed is what the words find, and not what the words before them found. */
const isCurrent = computed(
  () => sought.value === typed.value && !answer.isPlaceholderData.value && !answer.isFetching.value,
)
const isShown = computed(() => isOpen.value && typed.value.trim() !== '')
const isListed = computed(() => isShown.value && hits.value.length > 0)
const notFound = computed(() => isShown.value && isCurrent.value && !hits.value.length)
watch(typed, () => {
  place.value = 0
  text.value = ''
  isOpen.value = true
})

function move(by: number) {
  const count = hits.value.length
  if (count) place.value = (place.value + by + count) % count
}
function cleared() {
  close()
  typed.value = ''
}
async function go(hit: SearchHit) {
  cleared()
  field.value?.blur()
  await router.push(addressOf(hit))
}
function close() {
  isOpen.value = false
  text.value = ''
}

/** Enter in the box: what is marked, or the first that is found where the list is not there yet. */
async function entered() {
  const words = typed.value
  const take = scanTaker()
  // A scanner types its address into the box, because the address has a slash in it.
  if (take && codeIn(words) !== words.trim()) {
    typed.value = ''
    field.value?.blur()
    take(codeIn(words))
    return
  }
  if (!words.trim()) return
  const marked = hits.value[place.value]
  if (isCurrent.value) return marked && go(marked)
  await open(words, (all) => all[0])
}

/** A scan leads to what it names exactly, or is given to the page that takes scans. */
async function take(code: string) {
  const taker = scanTaker()
  if (taker) return taker(code)
  const isFound = await open(code, (all) => exactly(all, code))
  if (!isFound) text.value = t('app.nothing-has-the-code', { requested: code })
}

/** Open the one that is chosen of what the words find; false where nothing is, which the list says. */
async function open(words: string, choose: (all: SearchHit[]) => SearchHit | undefined) {
  try {
    const hit = choose(await searchFor(codeIn(words)))
    if (hit) await go(hit)
    return Boolean(hit)
  } catch (error) {
    isOpen.value = false
    text.value = sentence(error)
    return true
  }
}

function pressed(event: KeyboardEvent) {
  if (isTyping(event)) return
  if (event.key === '/') {
    event.preventDefault()
    field.value?.focus()
    return
  }
  const fast = event.timeStamp - lastAt < FASTEST_TYPIST_MS
  lastAt = event.timeStamp
  if (event.key === 'Enter' && scanned.length >= SHORTEST_SCAN && fast) {
    event.preventDefault()
    event.stopImmediatePropagation()
    void take(codeIn(scanned))
    scanned = ''
  } else if (event.key.length === 1) scanned = (fast ? scanned : '') + event.key
}
onMounted(() => window.addEventListener('keydown', pressed, { capture: true }))
onUnmounted(() => window.removeEventListener('keydown', pressed, { capture: true }))
</script>

<template>
  <form ref="box" class="search" role="search" @submit.prevent="entered" @keydown.esc="cleared">
    <div v-if="isListed || notFound" class="found" :style="beside" @mousedown.prevent>
      <ChoiceList
        v-if="isListed"
        id="search-list"
        v-model="place"
        :name="t('app.found')"
        :choices="choices"
        @choose="go(hits[$event]!)"
      />
      <p v-else class="quiet small" role="status">{{ t('app.nothing-found') }}</p>
    </div>
    <v-text-field
      ref="field"
      v-model="typed"
      density="compact"
      single-line
      :placeholder="t('app.find')"
      :aria-label="t('app.find-anything')"
      :title="t('app.find-what')"
      :aria-controls="isListed ? 'search-list' : undefined"
      :aria-activedescendant="isListed ? `search-list-${place}` : undefined"
      autocomplete="off"
      @focus="isOpen = true"
      @blur="close"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
    />
    <p v-if="text" class="refusal" :style="beside" role="alert">{{ text }}</p>
  </form>
</template>

<style scoped>
.found {
  position: fixed;
  z-index: 20;
  width: min(640px, calc(100vw - 24px));
  max-height: 62vh;
  padding: 8px;
  overflow-y: auto;
  border: 1px solid var(--hair);
  border-radius: 9px;
  background: var(--page);
  box-shadow: 0 6px 24px rgb(0 0 0 / 18%);
}

.refusal {
  position: fixed;
  z-index: 20;
  width: 260px;
  margin: 0;
  padding: 10px 12px;
  background: var(--ink);
  color: var(--page);
  font-size: 14px;
}
</style>
