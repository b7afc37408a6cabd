<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct, useMethods } from '@/api/queries'
import ProductTestFields from '@/products/ProductTestFields.vue'
import {
  newTest,
  readProduct,
  testOf,
  typedTest,
  type ProductPage,
  type TestRow,
} from '@/products/products'
import ActButton from '@/ui/ActButton.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'
import { vFocus } from '@/ui/focus'
import RefusalNote from '@/ui/RefusalNote.vue'

/** A product is drafted: a new one, or the next revision of one that is shown. */
const props = defineProps<{ from: ProductPage | null }>()
const emit = defineEmits<{ saved: [id: number]; leave: [] }>()
const methods = useMethods()
const { act, refused, busy } = useAct()
const own = props.from?.product.specification as Schemas['Specification'] | undefined
const typed = reactive({
  client: props.from?.product.client ?? '',
  name: props.from?.product.name ?? '',
  material: own?.material ?? '',
  form: own?.form ?? 'sheet',
  comparison: own?.comparison ?? null,
  label_school: own?.label_school ?? null,
})
const tests = ref<TestRow[]>([])
/** The newest revision when the form was opened: a draft is not saved over a later one. */
const seen = ref(props.from?.newest ?? 0)
const tried = ref(false)
const picked = ref<string | null>(null)
const need = (value: string) => (tried.value && !value.trim() ? t('products.required') : undefined)
const isRead = ref(false)
watch(
  methods.data,
  (known) => {
    if (!known || isRead.value) return
    isRead.value = true
    tests.value = (own?.tests ?? []).flatMap((test) => {
      const method = known.find((each) => each.id === test.method)
      return method ? [typedTest(test, method)] : []
    })
  },
  { immediate: true },
)

const FORMS = [
  { value: 'sheet', title: t('jobs.sheet') },
  { value: 'pieces', title: t('jobs.pieces') },
  { value: 'granules', title: t('jobs.granules') },
  { value: 'packs', title: t('jobs.packs') },
]
const COMPARISONS = [
  { value: null, title: t('products.lab-default') },
  { value: 'as-rounded', title: t('products.as-rounded') },
  { value: 'unrounded', title: t('products.unrounded') },
]
const LABELS = [
  { value: null, title: t('products.lab-default') },
  { value: 'by-long-side', title: t('products.by-long-side') },
  { value: 'by-failing-yarn', title: t('products.by-failing-yarn') },
]
const choices = computed(() =>
  (methods.data.value ?? [])
    .filter((method) => method.forms.includes(typed.form))
    .map((method) => ({ value: method.id, title: `${method.title}, ${method.id}` })),
)
function add(id: string | null) {
  const method = methods.data.value?.find((each) => each.id === id)
  if (method) tests.value.push(newTest(method))
  picked.value = null
}

async function save() {
  tried.value = true
  if (![typed.client, typed.name, typed.material].every((text) => text.trim())) return
  if (!tests.value.length) return
  const { client: of, name, ...rest } = typed
  const specification = { ...rest, tests: tests.value.map(testOf) }
  const body = { client: of, name, specification, seen: seen.value }
  await act(async () => {
    const kept = await ask(client.POST('/api/products', { body }))
    await readProduct(kept.id)
    draft.saved()
    emit('saved', kept.id)
  })
}

/** The tests as they are kept: each method by its id. */
const keptTests = () => tests.value.map(({ method, ...rest }) => ({ ...rest, method: method.id }))
const draft = useDraft(
  () => `product/${props.from ? `${props.from.product.client}/${props.from.product.name}` : 'new'}`,
  () => ({ typed, tests: keptTests(), seen: seen.value }),
  (kept) => {
    Object.assign(typed, kept.typed)
    seen.value = kept.seen
    tests.value = kept.tests.flatMap(({ method: id, ...rest }) => {
      const method = methods.data.value?.find((each) => each.id === id)
      return method ? [{ ...rest, method }] : []
    })
  },
)
watch(isRead, draft.begin, { flush: 'post' })
if (isRead.value) draft.begin()
function leave() {
  draft.discard()
  emit('leave')
}
</script>

<template>
  <form @submit.prevent="save">
    <header>
      <h2>
        {{
          from
            ? t('products.draft-of', { name: from.product.name, revision: from.newest + 1 })
            : t('products.new-product-2')
        }}
      </h2>
      <div class="acts">
        <ActButton type="button" @click="leave">{{ t('products.cancel') }}</ActButton>
        <ActButton kind="main" :disabled="busy">{{ t('products.save-draft') }}</ActButton>
      </div>
    </header>
    <DraftNote :draft="draft" />
    <RefusalNote v-model="refused" />
    <div class="fields">
      <v-text-field
        v-model="typed.client"
        v-focus
        :label="t('jobs.client')"
        :disabled="from !== null"
        :error-messages="need(typed.client)"
        maxlength="120"
      />
      <v-text-field
        v-model="typed.name"
        :label="t('products.product')"
        :disabled="from !== null"
        :error-messages="need(typed.name)"
        maxlength="120"
      />
      <v-text-field
        v-model="typed.material"
        :label="t('jobs.material-with-mass-if-known')"
        :error-messages="need(typed.material)"
        maxlength="200"
      />
      <v-select v-model="typed.form" :items="FORMS" :label="t('products.form')" />
      <v-select
        v-model="typed.comparison"
        :items="COMPARISONS"
        :label="t('jobs.comparison-with-limits')"
      />
      <v-select v-model="typed.label_school" :items="LABELS" :label="t('products.labels')" />
    </div>
    <ProductTestFields
      v-for="(row, place) in tests"
      :key="row.key"
      v-model="tests[place]!"
      @out="tests.splice(place, 1)"
    />
    <v-autocomplete
      :key="tests.length"
      :model-value="picked"
      :items="choices"
      :label="tests.length ? t('products.add-test') : t('products.test-by-name-or-number')"
      :error-messages="tried && !tests.length ? t('products.choose-at-least-one-test') : undefined"
      @update:model-value="add"
    />
  </form>
</template>

<style scoped src="../office/pane.css"></style>
<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
  gap: 12px 16px;
}
</style>
