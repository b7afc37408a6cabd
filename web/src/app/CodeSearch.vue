<script setup lang="ts">
import { t } from '@/ui/words'
import { onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, sentence } from '@/api/client'
import { isTyping } from '@/ui/keys'
import { scanTaker } from '@/app/scanning'

/** A scan anywhere, or a code typed here, jumps to the specimen. */
const FASTEST_TYPIST_MS = 45
const router = useRouter()
const field = ref<HTMLInputElement | null>(null)
const code = ref('')
const text = ref('')
let scanned = ''
let lastAt = 0

/** What was scanned or typed: a code, or the address on a label that ends in it. */
async function find(scan: string, byHand: boolean) {
  text.value = ''
  const requested = scan.trim().split('/').pop()!
  const take = scanTaker()
  // A scanner types its address into the field, because the address has a slash in it.
  if (take && requested && (!byHand || scan.includes('/'))) {
    code.value = ''
    field.value?.blur()
    take(requested)
    return
  }
  if (!requested.trim()) return
  try {
    const answer = await ask(
      client.GET('/api/specimens/by-code/{code}', { params: { path: { code: requested.trim() } } }),
    )
    if (!answer) {
      text.value = t('app.no-specimen-has-the-code', { requested: requested.trim() })
      return
    }
    code.value = ''
    field.value?.blur()
    await router.push(`/bench/${answer.job_id}?specimen=${answer.specimen.id}`)
  } catch (error) {
    text.value = sentence(error)
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
  if (event.key === 'Enter' && scanned.length >= 6 && fast) {
    event.preventDefault()
    event.stopImmediatePropagation()
    void find(scanned, false)
    scanned = ''
  } else if (event.key.length === 1) scanned = (fast ? scanned : '') + event.key
}
onMounted(() => window.addEventListener('keydown', pressed, { capture: true }))
onUnmounted(() => window.removeEventListener('keydown', pressed, { capture: true }))
</script>

<template>
  <form class="search" role="search" @submit.prevent="find(code, true)">
    <v-text-field
      ref="field"
      v-model="code"
      class="mono"
      density="compact"
      single-line
      :placeholder="t('app.code')"
      :aria-label="t('app.find-code')"
      autocomplete="off"
      @update:model-value="text = ''"
    />
    <p v-if="text" role="alert">{{ text }}</p>
  </form>
</template>

<style scoped>
.search {
  position: relative;
}

p {
  position: absolute;
  bottom: 48px;
  left: 0;
  z-index: 5;
  width: 220px;
  padding: 10px 12px;
  background: var(--ink);
  color: var(--page);
  font-size: 14px;
}
</style>
