<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useDue } from '@/api/queries'
import { useSession } from '@/app/session'
import { OFFICE_PAGES } from '@/office/pages'

/** The pages of the office side by side, above the one that is open. */
const route = useRoute()
const due = useDue()
const { me } = useSession()
const pages = computed(() =>
  OFFICE_PAGES.filter(({ right }) => !right || me.value?.may.includes(right)),
)
</script>

<template>
  <nav :aria-label="t('office.pages-of-the-office')">
    <router-link
      v-for="page in pages"
      :key="page.to"
      :to="page.to"
      :class="{ open: route.path === page.to }"
    >
      {{ page.text }}
      <span
        v-if="page.to === '/due' && due.data.value?.overdue"
        class="mono"
        :title="t('app.count-overdue', { count: due.data.value.overdue })"
        >{{ due.data.value.overdue }}</span
      >
    </router-link>
  </nav>
</template>

<style scoped>
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  margin-bottom: 14px;
  border-bottom: 1px solid var(--hair);
}

a {
  display: flex;
  gap: 7px;
  align-items: center;
  min-height: 36px;
  border-bottom: 3px solid transparent;
  color: var(--ink-2);
  font-weight: 600;
  text-decoration: none;
}

a:hover {
  color: var(--ink);
}

.open {
  border-bottom-color: var(--blue);
  color: var(--ink);
}

span {
  color: var(--ochre);
  font-size: 14px;
  font-weight: 700;
}
</style>
