<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import { useSession } from '@/app/session'
import AttachmentsPane from '@/office/AttachmentsPane.vue'
import ClientForm from '@/office/ClientForm.vue'
import JobsOfClient from '@/office/JobsOfClient.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'

/** One client: contacts, addresses and reports, and below them its orders and jobs. */
const props = defineProps<{ name: string }>()
const { me } = useSession()
const query = useQuery({
  queryKey: ['client', computed(() => props.name)],
  queryFn: () => ask(client.GET('/api/client', { params: { query: { name: props.name } } })),
})
const page = computed(() => query.data.value)
const changing = ref(false)
const mayChange = computed(() => me.value?.may.includes('receive') ?? false)
const state = (isDone: boolean) => (isDone ? t('office.done') : t('office.open'))
</script>

<template>
  <FromRecord v-if="!page" :query="query" />
  <ClientForm
    v-else-if="changing"
    :from="page"
    @saved="changing = false"
    @leave="changing = false"
  />
  <article v-else>
    <header>
      <h2>{{ page.name }}</h2>
      <div class="acts">
        <ActButton v-if="mayChange" @click="changing = true">{{
          t('office.change-record')
        }}</ActButton>
        <ActButton v-if="page.products" :to="`/products?search=${encodeURIComponent(page.name)}`">{{
          counted('products.count', page.products)
        }}</ActButton>
      </div>
    </header>
    <p v-if="!page.revision" class="small quiet">{{ t('office.nothing-kept-yet') }}</p>
    <dl v-else>
      <template v-for="contact in page.contacts" :key="contact.name + contact.email">
        <dt>{{ contact.role || t('office.contact') }}</dt>
        <dd>
          {{ contact.name }}
          <a v-if="contact.email" :href="`mailto:${contact.email}`">{{ contact.email }}</a>
          <span v-if="contact.phone" class="mono">{{ contact.phone }}</span>
          <span v-if="contact.gets_reports" class="small quiet">{{
            t('office.gets-the-reports')
          }}</span>
        </dd>
      </template>
      <template v-for="address in page.addresses" :key="address.purpose + address.text">
        <dt>{{ t('office.address-for', { purpose: address.purpose }) }}</dt>
        <dd class="lines">{{ address.text }}</dd>
      </template>
      <dt>{{ t('office.reports') }}</dt>
      <dd>
        {{ page.paper
        }}<template v-if="page.collects_reports"
          >, {{ t('office.collected-at-the-counter') }}</template
        >
      </dd>
      <template v-if="page.remark">
        <dt>{{ t('office.remark') }}</dt>
        <dd>{{ page.remark }}</dd>
      </template>
    </dl>
    <AttachmentsPane subject="client" :of="page.name" />
    <section v-for="order in page.orders" :key="order.number">
      <h3>
        {{ t('office.order', { number: order.number }) }}
        <span class="small" :class="order.is_done ? 'quiet' : 'waits'">{{
          state(order.is_done)
        }}</span>
      </h3>
      <JobsOfClient :jobs="order.jobs" />
    </section>
    <section v-if="page.jobs.length">
      <h3>{{ page.orders.length ? t('office.jobs-without-an-order') : t('office.jobs') }}</h3>
      <JobsOfClient :jobs="page.jobs" />
    </section>
    <p v-if="page.more_jobs" class="small quiet">
      {{ counted('office.older-jobs-not-shown', page.more_jobs) }}
    </p>
  </article>
</template>

<style scoped src="./pane.css"></style>
<style scoped>
dd {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin: 0;
}
</style>
