<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import ActButton from '@/ui/ActButton.vue'
import { computed, ref } from 'vue'
import type { MethodLine } from '@/api/client'
import FromRecord from '@/ui/FromRecord.vue'
import StateNote from '@/ui/StateNote.vue'
import { useMethods } from '@/api/queries'

/** Every method, by family: the index of the pages on the wall. */
const methods = useMethods()
const sought = ref('')

const families = computed(() => {
  const text = sought.value.trim().toLowerCase()
  const families = new Map<string, MethodLine[]>()
  for (const method of methods.data.value ?? []) {
    const said = `${method.id} ${method.title} ${method.purpose}`.toLowerCase()
    if (text && !text.split(/\s+/).every((word) => said.includes(word))) continue
    families.set(method.family, [...(families.get(method.family) ?? []), method])
  }
  return [...families]
})
</script>

<template>
  <header class="head">
    <h1>{{ t('methods.methods') }}</h1>
    <v-text-field
      v-model="sought"
      v-focus
      :label="t('methods.find-a-method')"
      :placeholder="t('methods.tear-seal-iso-527')"
      class="find"
    />
  </header>
  <FromRecord v-if="!methods.data.value" :query="methods" />
  <StateNote
    v-else-if="families.length === 0"
    :title="t('methods.no-method-found')"
    :text="t('methods.no-method-matches-try-a-material-a', { sought })"
  >
    <ActButton @click="sought = ''">{{ t('methods.show-all') }}</ActButton>
  </StateNote>
  <div v-else class="families">
    <section v-for="[family, members] in families" :key="family">
      <h2>{{ family }}</h2>
      <ul>
        <li v-for="member in members" :key="member.id">
          <router-link :to="`/methods/${member.id}`">
            <span class="mono id">{{ member.id }}</span>
            <span class="title">{{ member.title }}</span>
          </router-link>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  gap: 30px;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 10px;
}

.find {
  max-width: 380px;
}

.families {
  columns: 2 420px;
  column-gap: 56px;
}

section {
  margin-bottom: 22px;
  break-inside: avoid-column;
}

h2 {
  padding-bottom: 6px;
  border-bottom: 2px solid var(--ink);
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li + li {
  border-top: 1px solid var(--hair);
}

li a {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  gap: 12px;
  align-items: center;
  min-height: 40px;
  color: var(--ink);
  text-decoration: none;
}

li a:hover .title {
  color: var(--blue);
  text-decoration: underline;
}

.id {
  color: var(--ink-2);
  font-size: 14px;
}
</style>
