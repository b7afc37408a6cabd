<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAppTheme } from '@/app/appTheme'
import { useChanges } from '@/api/changes'
import { useDue, useWaiting } from '@/api/queries'
import { isTyping } from '@/ui/keys'
import { useSession } from '@/app/session'
import ClockRail from '@/app/ClockRail.vue'
import LeaveDialog from '@/app/LeaveDialog.vue'
import { mayLeave } from '@/app/leaving'
import NewsNote from '@/app/NewsNote.vue'
import UndoOffer from '@/app/UndoOffer.vue'
import SearchBox from '@/app/SearchBox.vue'
import DayRuler from '@/app/DayRuler.vue'
import CommandPalette from '@/app/CommandPalette.vue'
import KeysDialog from '@/app/KeysDialog.vue'
import OfficeTabs from '@/office/OfficeTabs.vue'
import { KEYED_PAGES, PAGES } from '@/app/pages'
import { pageKey } from '@/app/router'
import { isOffice } from '@/office/pages'
import ActButton from '@/ui/ActButton.vue'

const { me, signOut } = useSession()
const route = useRoute()
const router = useRouter()
const { other: otherTheme, flip: flipTheme } = useAppTheme()
const keysShown = ref(false)
const paletteShown = ref(false)

useChanges()
const waiting = useWaiting()
const due = useDue()

const tabs = computed(() => PAGES.map((page) => ({ ...page, count: countAt(page.to) })))

/** A page of the office belongs to its tab, which opens the first of them. */
const isOpen = (to: string) =>
  to === '/due' ? isOffice(route.path) : route.path === to || route.path.startsWith(`${to}/`)

const COUNTED = ['/cutting', '/bench', '/judge']
/** What waits on a screen, or is overdue in the office. */
function countAt(path: string): number {
  if (path === '/due') return due.data.value?.overdue ?? 0
  return COUNTED.includes(path) ? (waiting.data.value?.[path.slice(1)] ?? 0) : 0
}

const leave = async () => {
  if (await mayLeave()) await signOut()
}
let going = 0
function pressed(event: KeyboardEvent) {
  if (event.key === 'Escape') keysShown.value = false
  if (event.key === 'k' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    paletteShown.value = !paletteShown.value
  }
  if (event.ctrlKey || event.altKey || event.metaKey || isTyping(event)) return
  if (event.key === '?') keysShown.value = !keysShown.value
  if (event.key === 'g') going = Date.now()
  else if (Date.now() - going < 1200) {
    const tab = KEYED_PAGES.find((tab) => tab.key === event.key)
    if (tab) void router.push(tab.to)
    going = 0
    if (tab) event.stopImmediatePropagation()
  }
}
onMounted(() => window.addEventListener('keydown', pressed, { capture: true }))
onUnmounted(() => window.removeEventListener('keydown', pressed, { capture: true }))
</script>

<template>
  <div class="frame">
    <nav class="tabs" :aria-label="t('app.screens')">
      <router-link class="name" to="/today">{{ t('app.endurant') }}</router-link>
      <router-link
        v-for="tab in tabs"
        :key="tab.to"
        :to="tab.to"
        class="tab"
        :class="{ open: isOpen(tab.to) }"
      >
        <span>{{ tab.text }}</span>
        <span
          v-if="tab.count"
          class="count mono"
          :title="
            tab.to === '/due'
              ? t('app.count-overdue', { count: tab.count })
              : t('app.waiting', { count: tab.count })
          "
          >{{ tab.count }}</span
        >
      </router-link>
      <div class="foot">
        <SearchBox />
        <div class="me">
          <span class="who">{{ me?.name }}</span>
          <span class="role">{{ me?.role }}</span>
        </div>
        <div class="small-acts">
          <ActButton kind="plain" @click="flipTheme">
            {{ otherTheme === 'dark' ? t('app.dark') : t('app.light') }}
          </ActButton>
          <ActButton kind="plain" @click="keysShown = true"
            >{{ t('app.shortcuts') }} <kbd>?</kbd></ActButton
          >
          <ActButton kind="plain" @click="leave">{{ t('app.sign-out') }}</ActButton>
        </div>
      </div>
    </nav>
    <main class="page">
      <DayRuler class="day" />
      <div class="sheet">
        <OfficeTabs v-if="isOffice(route.path)" />
        <router-view :key="pageKey(route)" />
      </div>
    </main>
    <NewsNote />
    <UndoOffer />
    <ClockRail />
    <LeaveDialog />
    <KeysDialog v-model="keysShown" />
    <CommandPalette v-model="paletteShown" />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template: minmax(0, 1fr) auto / 142px minmax(0, 1fr);
  height: 100dvh;
  background: var(--ground);
}

.tabs {
  display: flex;
  flex-direction: column;
  min-height: 0;
  overflow: hidden auto;
  padding: 18px 0 0 10px;
}

.name {
  padding: 0 0 20px 10px;
  color: var(--ink);
  font: 700 20px/1 var(--text);
  text-decoration: none;
}

.tab {
  display: flex;
  align-items: center;
  justify-content: space-between;
  min-height: var(--touch);
  padding: 0 12px 0 10px;
  border-left: 4px solid transparent;
  border-radius: 9px 0 0 9px;
  color: var(--ink-2);
  font: 600 15.5px/1 var(--text);
  text-decoration: none;
}

.tab:hover {
  color: var(--ink);
}

.tab.open {
  border-left-color: var(--blue);
  background: var(--page);
  color: var(--ink);
}

.count {
  color: var(--ochre);
  font-size: 14px;
  font-weight: 700;
}

.foot {
  margin-top: auto;
  padding: 0 10px 14px;
}

.me {
  display: grid;
  margin-top: 14px;
  line-height: 1.25;
}

.who {
  font-weight: 600;
  font-size: 14.5px;
}

.role {
  color: var(--ink-2);
  font-size: 14px;
}

.small-acts {
  display: grid;
  justify-items: start;
  margin-top: 6px;
  color: var(--ink-2);
  font-size: 14px;
}

.small-acts button {
  min-height: 28px;
}

.small-acts button:hover {
  color: var(--ink);
}

.page {
  display: flex;
  flex-direction: column;
  min-width: 0;
  background: var(--page);
}

.sheet {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 16px 34px 22px;
  scrollbar-gutter: stable;
}

@media (max-width: 1100px) {
  .frame {
    grid-template-columns: 124px minmax(0, 1fr);
  }

  .tab {
    padding: 0 8px 0 6px;
    font-size: 15px;
  }

  .sheet {
    padding: 14px 22px 18px;
  }
}

/* A phone at the oven: the screens in a row above the page. */
@media (max-width: 640px) {
  .frame {
    grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr);
  }

  .tabs {
    flex-direction: row;
    padding: 0 6px;
    overflow: auto hidden;
    background: var(--ground);
  }

  .name,
  .small-acts,
  .me,
  .page > .day {
    display: none;
  }

  .tab {
    flex: none;
    gap: 6px;
    padding: 0 12px;
    border-bottom: 3px solid transparent;
    border-left: 0;
    border-radius: 0;
  }

  .tab.open {
    border-bottom-color: var(--blue);
  }

  .foot {
    order: -1;
    flex: none;
    width: 96px;
    margin: 3px 0;
    padding: 0;
  }

  .sheet {
    padding: 12px 14px 16px;
  }
}
</style>
