<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from '@/app/session'
import ProductForm from '@/products/ProductForm.vue'
import ProductPane from '@/products/ProductPane.vue'
import ProductTable from '@/products/ProductTable.vue'
import { useProducts, type ProductState } from '@/products/products'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import StateNote from '@/ui/StateNote.vue'

/** What clients have tested again and again: drafted here, approved by a second person, retired. */
const route = useRoute()
const router = useRouter()
const { me } = useSession()
const search = ref(typeof route.query.search === 'string' ? route.query.search : '')
const sought = refDebounced(search, 250)
const state = ref<ProductState>('all')
const STATES: { value: ProductState; title: string }[] = [
  { value: 'all', title: t('products.all') },
  { value: 'in-force', title: t('products.in-force-2') },
  { value: 'draft', title: t('products.with-a-draft') },
  { value: 'retired', title: t('products.retired-2') },
]
const products = useProducts(sought, state)
const lines = computed(() => products.data.value?.pages.flatMap((page) => page.products) ?? [])
const total = computed(() => products.data.value?.pages[0]?.total ?? 0)
const isNew = computed(() => route.query.new !== undefined)
const isTable = computed(() => route.query.table !== undefined)
const picked = computed(() => Number(route.query.id) || (lines.value[0]?.id ?? null))
/** Any revision of a product marks its line. */
const open = ref<string | null>(null)
const show = (id: number) => router.push({ query: { id: String(id) } })
const mayDraft = computed(() => me.value?.may.includes('receive') ?? false)
</script>

<template>
  <FromRecord v-if="!products.data.value" :query="products" />
  <div v-else class="beside">
    <aside>
      <h1>{{ t('products.products') }}</h1>
      <v-text-field
        v-model="search"
        density="compact"
        clearable
        :label="t('products.search')"
        @click:clear="search = ''"
      />
      <v-select v-model="state" density="compact" :items="STATES" :label="t('products.show')" />
      <p class="small quiet">{{ counted('products.count', total) }}</p>
      <ul class="picks">
        <li v-for="line in lines" :key="line.id">
          <ActButton
            kind="plain"
            :class="{ open: !isNew && !isTable && open === `${line.client} ${line.name}` }"
            :aria-pressed="!isNew && !isTable && open === `${line.client} ${line.name}`"
            @click="show(line.id)"
          >
            <span class="name">{{ line.name }}</span>
            <span v-if="line.has_draft" class="small waits">{{ t('products.draft') }}</span>
            <span v-else-if="line.is_retired" class="small quiet">{{ t('products.retired') }}</span>
            <span class="small quiet below"
              >{{ line.client
              }}<template v-if="line.in_force">
                · {{ t('products.revision', { revision: line.in_force }) }}</template
              ></span
            >
          </ActButton>
        </li>
      </ul>
      <ActButton
        v-if="products.hasNextPage.value"
        kind="link"
        :disabled="products.isFetchingNextPage.value"
        @click="products.fetchNextPage()"
        >{{ t('products.more') }}</ActButton
      >
      <div v-if="mayDraft" class="acts">
        <ActButton to="/products?new">{{ t('products.draft-product') }}</ActButton>
        <ActButton to="/products?table">{{ t('products.products-table') }}</ActButton>
      </div>
    </aside>
    <ProductForm v-if="isNew" :from="null" @saved="show" @leave="router.push('/products')" />
    <ProductTable v-else-if="isTable" />
    <ProductPane
      v-else-if="picked"
      :id="picked"
      :key="picked"
      @shown="open = $event"
      @show="show"
    />
    <StateNote
      v-else
      :title="search || state !== 'all' ? t('products.none-found') : t('products.no-product-yet')"
      :text="t('products.a-product-holds-the-tests-and-limits')"
    />
  </div>
</template>

<style scoped src="../office/beside.css"></style>
