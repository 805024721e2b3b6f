<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { ElInput, ElOption, ElSelect, ElTable, ElTableColumn } from 'element-plus'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-popper.css'
import 'element-plus/theme-chalk/el-scrollbar.css'
import 'element-plus/theme-chalk/el-tag.css'
import 'element-plus/theme-chalk/el-table.css'
import 'element-plus/theme-chalk/el-table-column.css'
import type { PropertyView } from '@tin-harbor/core/buying'
import { COUNTRIES } from '@tin-harbor/core/places'
import { DEVICE_TYPES, FORMATS, GRADES, deviceWords } from '@tin-harbor/core/taxonomy'
import { dateOfDay } from '@tin-harbor/core/time'
import { api, isAbort } from '@/api'
import { about, cpm, count, perCent, shortDate } from '@/composables/formats'
import { vSortKeys } from '@/composables/sort-keys'
import { useAddress } from '@/composables/use-address'
import { useMarket } from '@/stores/market'

const COLUMNS = ['name', 'opportunitiesADay', 'people', 'floorMicros', 'clearingMicros', 'viewability', 'bots', 'grade'] as const

const address = useAddress()
const market = useMarket()
const rows = shallowRef<PropertyView[]>([])
const error = shallowRef<string | null>(null)
const isLoading = shallowRef(true)
let asking: AbortController | null = null

const country = address.part('country')
const device = address.part('device')
const format = address.part('format')
const search = address.part('named')
const grade = address.part('grade')
const sorted = address.part('sort')
const sort = computed(() => {
  const [prop, order] = (sorted.value || 'opportunitiesADay.down').split('.')
  return { prop: (COLUMNS as readonly string[]).includes(prop) ? prop : 'opportunitiesADay', order: order === 'up' ? 'ascending' as const : 'descending' as const }
})

const shown = computed(() => rows.value.filter((row) =>
  (!grade.value || row.grade <= grade.value) &&
  (!search.value || `${row.name} ${row.domain} ${row.publisher}`.toLowerCase().includes(search.value.toLowerCase()))))
const total = computed(() => shown.value.reduce((sum, row) => sum + row.opportunitiesADay, 0))

async function load(): Promise<void> {
  asking?.abort()
  const mine = (asking = new AbortController())
  isLoading.value = true
  error.value = null
  try {
    const answer = await api.properties(country.value, device.value, format.value || 'display', { signal: mine.signal })
    if (mine === asking) rows.value = answer
  } catch (failure) {
    if (mine === asking && !isAbort(failure)) error.value = (failure as Error).message
  } finally {
    if (mine === asking) isLoading.value = false
  }
}

watch([country, device, format, () => market.tapeReady], load, { immediate: true })

function onSort({ prop, order }: { prop: string | null; order: string | null }) {
  sorted.value = prop && order ? `${prop}.${order === 'ascending' ? 'up' : 'down'}` : ''
}

const tapeDays = computed(() => {
  const last = Math.floor(market.run.hour / 24) - 1
  return last > 0 ? `${shortDate(dateOfDay(last - 13))} to ${shortDate(dateOfDay(last))}` : ''
})
</script>

<template>
  <section class="MarketView">
    <h1 class="visually-hidden">Market</h1>
    <div class="MarketView-sentence">
      <ElSelect :model-value="format || 'display'" aria-label="Format" class="MarketView-format" data-test="format" @update:model-value="(name: string) => (format = name === 'display' ? '' : name)">
        <ElOption v-for="name in FORMATS" :key="name" :value="name" :label="name" />
      </ElSelect>
      <span>on</span>
      <ElSelect v-model="device" aria-label="Device type" :empty-values="[null]" :value-on-clear="null" data-test="device">
        <ElOption value="" label="any device" />
        <ElOption v-for="type in DEVICE_TYPES" :key="type" :value="type" :label="deviceWords(type)" />
      </ElSelect>
      <span>in</span>
      <ElSelect v-model="country" aria-label="Country" filterable default-first-option :empty-values="[null]" :value-on-clear="null" data-test="country">
        <ElOption value="" label="the whole world" />
        <ElOption v-for="place in COUNTRIES" :key="place.code" :value="place.code" :label="place.name" />
      </ElSelect>
      <span class="MarketView-comma">, graded</span>
      <ElSelect v-model="grade" aria-label="Least grade" :empty-values="[null]" :value-on-clear="null" data-test="grade">
        <ElOption value="" label="A to E" />
        <ElOption v-for="letter in GRADES.slice(0, 4)" :key="letter" :value="letter" :label="letter === 'A' ? 'A only' : `A to ${letter}`" />
      </ElSelect>
      <span class="MarketView-comma">, named</span>
      <ElInput v-model="search" aria-label="Property, address or publisher" placeholder="anything" clearable data-test="named" />
    </div>
    <p class="MarketView-said">
      <template v-if="error"><span class="trouble" role="alert">{{ error }}</span> <button class="plain" type="button" @click="load">Try again</button></template>
      <template v-else-if="isLoading && rows.length === 0">Counting the market …</template>
      <template v-else>
        <b>{{ count(shown.length) }}</b> properties with <b>{{ about(total) }}</b> opportunities a day, counted on the tape of {{ tapeDays }}. Prices are CPM in euro; viewability and bots as measurers publish them; the grade is made of those two and of stays.
      </template>
    </p>
    <ElTable
      v-if="!error" v-sort-keys :scrollbar-tabindex="0" class="MarketView-table" :data="shown" :default-sort="sort" row-key="property" height="100%" :class="{ 'is-waiting': isLoading }"
      empty-text="No property fits. Lift the grade, the name or the country." @sort-change="onSort"
    >
      <ElTableColumn prop="name" label="property" min-width="270" sortable show-overflow-tooltip>
        <template #default="{ row }"><b class="MarketView-name">{{ row.name }}</b> <span class="quiet small">{{ row.domain }}</span></template>
      </ElTableColumn>
      <ElTableColumn prop="class" label="kind" width="118"><template #default="{ row }">{{ row.class }}, {{ row.home }}</template></ElTableColumn>
      <ElTableColumn prop="opportunitiesADay" label="a day" width="84" align="right" sortable><template #default="{ row }">{{ count(row.opportunitiesADay) }}</template></ElTableColumn>
      <ElTableColumn prop="people" label="people, 14 days" width="122" align="right" sortable><template #default="{ row }">{{ count(row.people) }}</template></ElTableColumn>
      <ElTableColumn prop="floorMicros" label="lowest floor" width="108" align="right" sortable><template #default="{ row }">{{ cpm(row.floorMicros) }}</template></ElTableColumn>
      <ElTableColumn prop="clearingMicros" label="median clearing" width="130" align="right" sortable><template #default="{ row }">{{ cpm(row.clearingMicros) }}</template></ElTableColumn>
      <ElTableColumn prop="viewability" label="viewable" width="96" align="right" sortable><template #default="{ row }">{{ perCent(row.viewability) }}</template></ElTableColumn>
      <ElTableColumn prop="bots" label="bots" width="74" align="right" sortable><template #default="{ row }">{{ perCent(row.bots, 1) }}</template></ElTableColumn>
      <ElTableColumn prop="grade" label="grade" width="78" align="center" sortable><template #default="{ row }"><b :class="`MarketView-grade-${row.grade}`">{{ row.grade }}</b></template></ElTableColumn>
      <ElTableColumn label="slots" min-width="120" show-overflow-tooltip><template #default="{ row }"><span class="quiet small">{{ row.sizes.join(', ') }}</span></template></ElTableColumn>
    </ElTable>
  </section>
</template>

<style>
.MarketView {
  display: grid;
  grid-template-rows: auto auto 1fr;
  height: 100%;
  padding: 14px 24px 0;
  background: var(--paper);
}

.MarketView-sentence {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding-bottom: 10px;
  border-bottom: 1px solid var(--ink);
  font: 18.5px/1.6 var(--serif);
}

.MarketView-comma {
  margin-left: -8px;
}

.MarketView-sentence .el-select {
  width: 138px;
}

.MarketView-sentence .el-select:nth-of-type(3) {
  width: 186px;
}

.MarketView-sentence .el-input {
  width: 170px;
}

.MarketView-sentence .el-select__wrapper,
.MarketView-sentence .el-input__wrapper {
  box-shadow: none;
  border-bottom: 1.5px solid var(--brass);
  border-radius: 0;
  background: transparent;
  font: 550 17px var(--serif);
}

.MarketView-sentence .el-input__inner {
  font: 550 17px var(--serif);
}

.MarketView-said {
  padding: 9px 0 6px;
  font: 13px/1.45 var(--serif);
}

.MarketView-table.is-waiting {
  opacity: 0.55;
}

.MarketView-name {
  font-weight: 600;
}

.MarketView-grade-A,
.MarketView-grade-B {
  color: var(--lamp);
}

.MarketView-grade-E {
  color: var(--hull);
}
</style>
