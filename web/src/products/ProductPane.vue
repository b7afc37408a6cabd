<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref, watch } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import AttachmentsPane from '@/office/AttachmentsPane.vue'
import ApproveDialog from '@/products/ApproveDialog.vue'
import ProductForm from '@/products/ProductForm.vue'
import RevisionDifferences from '@/products/RevisionDifferences.vue'
import RevisionsList from '@/products/RevisionsList.vue'
import SpecifiedTests from '@/products/SpecifiedTests.vue'
import { STATES, useProduct } from '@/products/products'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { capital } from '@/ui/phrases'
import { dayOf } from '@/ui/dates'

/** One revision of a product: what it asks for, what differs, and who approved it. */
const props = defineProps<{ id: number }>()
const emit = defineEmits<{ shown: [product: string]; show: [id: number] }>()
const query = useProduct(computed(() => props.id))
const page = computed(() => query.data.value)
watch(page, (now) => now && emit('shown', `${now.product.client} ${now.product.name}`), {
  immediate: true,
})
const { act, refused, busy } = useAct()
const changing = ref(false)
const approving = ref(false)
const retiring = ref(false)
const revision = computed(() => page.value?.revisions.find((each) => each.id === props.id))
const newestDraft = computed(() => {
  const [newest] = page.value?.revisions ?? []
  return newest?.state === 'draft' && newest.id !== props.id ? newest : null
})
const stateText = computed(() => {
  const shown = revision.value
  if (!shown) return ''
  const text = STATES[shown.state]
  if (shown.state === 'in-force' && shown.valid_from)
    return t('products.in-force-since', { day: dayOf(shown.valid_from) })
  if (shown.state === 'approved' && shown.valid_from)
    return t('products.in-force-from', { day: dayOf(shown.valid_from) })
  return text
})
const path = computed(() => ({ path: { product_id: props.id } }))
const approve = (valid_from: string | null) =>
  act(() =>
    ask(
      client.POST('/api/products/{product_id}/approve', {
        params: path.value,
        body: { valid_from },
      }),
    ),
  )
const retire = (reason: string) =>
  act(() =>
    ask(client.POST('/api/products/{product_id}/retire', { params: path.value, body: { reason } })),
  )
</script>

<template>
  <FromRecord v-if="!page" :query="query" />
  <ProductForm
    v-else-if="changing"
    :from="page"
    @leave="changing = false"
    @saved="((changing = false), emit('show', $event))"
  />
  <article v-else>
    <header>
      <div>
        <h2>{{ page.product.name }}</h2>
        <p class="quiet">
          {{ page.product.client }} ·
          {{ t('products.revision', { revision: page.product.revision }) }} ·
          <b :class="page.state">{{ stateText }}</b>
        </p>
      </div>
      <div class="acts">
        <ActButton v-if="page.may_approve" kind="main" :disabled="busy" @click="approving = true">{{
          t('products.approve-revision', { revision: page.product.revision })
        }}</ActButton>
        <ActButton v-if="page.may_draft" @click="changing = true">{{
          page.state === 'draft' ? t('products.change-draft') : t('products.draft-next-revision')
        }}</ActButton>
        <ActButton v-if="page.may_retire" :disabled="busy" @click="retiring = true">{{
          t('products.retire-product')
        }}</ActButton>
      </div>
    </header>
    <p v-if="page.approval && page.state === 'draft'" class="small quiet">{{ page.approval }}</p>
    <p v-else-if="page.state === 'draft' && !page.may_approve" class="small quiet">
      {{ t('products.a-draft-counts-once') }}
    </p>
    <p v-if="newestDraft" class="flag small">
      <i18n-t keypath="products.there-is-a-newer-draft" scope="global">
        <template #draft
          ><ActButton kind="link" @click="emit('show', newestDraft.id)">{{
            t('products.revision', { revision: newestDraft.revision })
          }}</ActButton></template
        >
      </i18n-t>
    </p>
    <p v-if="page.product.gone.length" class="flag small" role="alert">
      {{ t('products.methods-gone', { gone: page.product.gone.join(', ') }) }}
    </p>
    <p v-if="revision?.retired_why" class="small quiet">
      {{ t('products.retired-because', { by: revision.retired_by, why: revision.retired_why }) }}
    </p>
    <RefusalNote v-model="refused" />
    <dl>
      <template v-for="line in page.lines" :key="line.name">
        <dt>{{ capital(line.name) }}</dt>
        <dd>{{ line.text }}</dd>
      </template>
    </dl>
    <RevisionDifferences v-if="page.state === 'draft'" :page="page" />
    <SpecifiedTests :tests="page.tests" />
    <RevisionDifferences v-if="page.state !== 'draft'" :page="page" />
    <AttachmentsPane subject="product" :of="id" />
    <RevisionsList :page="page" @show="emit('show', $event)" />
    <ApproveDialog v-model="approving" :page="page" @approve="approve" />
    <ReasonDialog
      v-model="retiring"
      :title="t('products.retire', { name: page.product.name })"
      :text="t('products.no-lot-of-it-is-received-any-more')"
      :act="t('products.retire-product')"
      @given="retire"
    />
  </article>
</template>

<style scoped src="../office/pane.css"></style>
<style scoped>
.draft,
.approved {
  color: var(--ochre);
}

.in-force {
  color: var(--ink);
}

.retired,
.superseded {
  color: var(--ink-2);
}

.flag {
  padding: 7px 12px;
  border-left: 5px solid var(--ochre);
  background: var(--sunk);
}
</style>
