<script setup lang="ts">
import { computed, ref } from 'vue'
import { COUNTRIES, REGIONS } from '@tin-harbor/core/places'
import type { BreakdownName, BreakdownRow, Breakdowns } from '@tin-harbor/core/forecast'
import { CATEGORIES, DEVICE_NAMES, DEVICE_TYPES } from '@tin-harbor/core/taxonomy'
import { dateOfDay } from '@tin-harbor/core/time'
import { SOURCES, NOT_TOLD } from '@tin-harbor/core/market'
import TermNote from './TermNote.vue'
import { about, money, shortDate } from '@/composables/formats'

export interface BreakdownTableProps {
  breakdowns: Breakdowns
  /** Local market day of the flight's first replayed day. */
  firstDay: number
}
const props = defineProps<BreakdownTableProps>()

const CHOICES = ['country', 'region', 'device', 'category', 'source', 'placement', 'hour of week', 'day', 'deal'] as const
type Choice = (typeof CHOICES)[number]
const by = ref<Choice>('country')
const SHOWN = 8
const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']

function nameOf(what: BreakdownName, { value, code }: BreakdownRow): string {
  switch (what) {
    case 'country':
      return COUNTRIES[value].name
    case 'region':
      return `${REGIONS[value].name}, ${COUNTRIES[REGIONS[value].country].code}`
    case 'device':
      return DEVICE_NAMES[DEVICE_TYPES[value]]
    case 'category':
      return CATEGORIES[value]?.name ?? NOT_TOLD
    case 'source':
      return SOURCES[value].name
    case 'deal':
      return value < 0 ? 'open market' : `deal ${value + 1} of this line`
    case 'hour of week':
      return `${WEEKDAYS[Math.floor(value / 24)]} ${String(value % 24).padStart(2, '0')}:00`
    case 'placement':
      return code ?? NOT_TOLD
  }
}

const rows = computed(() => {
  if (by.value === 'day')
    return props.breakdowns.days.map((day, n) => ({
      name: shortDate(dateOfDay(props.firstDay + n)),
      wins: day.wins,
      spendMicros: day.spendMicros,
      matched: null as number | null
    }))
  const what = by.value
  const all = props.breakdowns.by[what]
  const sorted = what === 'hour of week' ? [...all].sort((a, b) => b.wins - a.wins) : all
  return sorted.map((row) => ({
    name: nameOf(what, row),
    wins: row.wins,
    spendMicros: row.spendMicros,
    matched: row.matched as number | null
  }))
})
const shown = computed(() => (by.value === 'day' ? rows.value : rows.value.slice(0, SHOWN)))
const most = computed(() => Math.max(...rows.value.map((row) => row.wins), 1e-9))
</script>

<template>
  <section class="BreakdownTable" aria-label="Breakdown" data-test="breakdown">
    <h3>
      <label for="breakdown-by">Wins a day, by</label>{{ ' '
      }}<select id="breakdown-by" v-model="by">
        <option v-for="choice in CHOICES" :key="choice" :value="choice">{{ choice }}</option>
      </select>
    </h3>
    <table class="panel-table">
      <thead>
        <tr>
          <th scope="col">{{ by }}</th>
          <th scope="col">wins</th>
          <th scope="col">spend</th>
          <th scope="col"><TermNote of="matched" /></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in shown" :key="row.name">
          <th scope="row">{{ row.name }}<i :style="{ width: `${(100 * row.wins) / most}%` }" /></th>
          <td>{{ about(row.wins) }}</td>
          <td>{{ money(row.spendMicros) }}</td>
          <td>{{ row.matched === null ? '' : about(row.matched) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="rows.length > shown.length" class="quiet small">the first {{ shown.length }} of {{ rows.length }}</p>
  </section>
</template>
