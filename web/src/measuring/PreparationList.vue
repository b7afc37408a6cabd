<script setup lang="ts">
import { t } from '@/ui/words'
import { nextTick, ref } from 'vue'
import type { JobView } from '@/api/client'
import PreparationDialog from '@/measuring/PreparationDialog.vue'
import ActButton from '@/ui/ActButton.vue'

/** How each test of a job is prepared, and how far its specimens are measured. */
defineProps<{ job: JobView }>()
const testId = ref(0)
const open = ref(false)
async function change(id: number) {
  testId.value = id
  await nextTick()
  open.value = true
}
</script>

<template>
  <section>
    <h3>{{ t('measuring.preparation-2') }}</h3>
    <ul>
      <li v-for="test in job.tests" :key="test.id">
        <span
          >{{ test.title
          }}<template v-if="test.state === 'wet'">{{ t('measuring.wet') }}</template></span
        >
        <span class="quiet small">
          {{ test.prepared.join('; ') || t('measuring.no-conditioning')
          }}<b v-if="test.prepared_otherwise" class="otherwise">{{
            t('measuring.differs-from-the-method')
          }}</b>
          <ActButton
            v-if="!job.released"
            kind="link"
            :aria-label="t('measuring.change-the-preparation-of', { title: test.title })"
            @click="change(test.id)"
          >
            {{ t('measuring.change') }}
          </ActButton>
        </span>
        <router-link v-if="test.measures.length" :to="`/measuring/${test.id}`" class="small">{{
          t('measuring.of-measured', {
            measures: test.measures.join(', '),
            measured: test.measured,
            specimens: test.specimens.filter((specimen) => specimen.called).length,
          })
        }}</router-link>
        <router-link
          v-else-if="'grammage_g_m2' in test.parameters"
          :to="`/measuring/${test.id}`"
          class="small"
          >{{
            t('measuring.grammage-2', {
              grammage_g_m2: test.parameters.grammage_g_m2 ?? t('measuring.not-measured'),
            })
          }}</router-link
        >
        <span v-else class="quiet small">{{ t('measuring.no-dimensions') }}</span>
      </li>
    </ul>
    <PreparationDialog v-if="testId" v-model="open" :test-id="testId" />
  </section>
</template>

<style scoped>
ul {
  margin: 0 0 18px;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(190px, 100%), 1fr));
  gap: 2px 24px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px solid var(--hair);
}

.otherwise {
  color: var(--brick);
}

.link {
  margin-left: 6px;
}
</style>
