<script setup lang="ts">
import { computed, onMounted, shallowRef, ref } from 'vue'
import type { CompanyView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { MEASURE_WORDS } from '@/composables/measures'
import { about, money } from '@/composables/formats'
import StateNote from '@/parts/StateNote.vue'
import { useManifest } from '@/stores/manifest'

/** The campaign's money over its lines: what each share buys, the split that would buy most, and whom the lines share. */
export interface CampaignCompanyProps {
  campaignId: number
  disabled: boolean
}
const props = defineProps<CampaignCompanyProps>()
const manifest = useManifest()
const company = shallowRef<CompanyView | null>(null)
const error = ref<string | null>(null)
const isAsking = ref(true)
const said = ref('')

async function load() {
  isAsking.value = true
  try {
    company.value = (await api.company(props.campaignId)).company
    error.value = null
  } catch (failure) {
    error.value = (failure as ApiError).message
  }
  isAsking.value = false
}
onMounted(load)

const sum = (pick: (line: CompanyView['lines'][number]) => number) =>
  company.value?.lines.reduce((total, line) => total + pick(line), 0) ?? 0
const names = computed(() => new Map(company.value?.lines.map((line) => [line.line, line.name])))
const ofLine = computed(
  () => new Map(company.value?.overlaps.filter(({ first, second }) => first === second).map((one) => [one.first, one]))
)
/** Those that share most first; of many some, and the rest when asked. */
const FEW_PAIRS = 4
const isWhole = ref(false)
const pairs = computed(() =>
  (company.value?.overlaps ?? [])
    .filter(({ first, second, opportunitiesADay }) => first !== second && opportunitiesADay > 0)
    .sort((a, b) => b.opportunitiesADay - a.opportunitiesADay)
)
const shownPairs = computed(() => (isWhole.value ? pairs.value : pairs.value.slice(0, FEW_PAIRS)))
const width = (value: number) => {
  const most = Math.max(1e-9, ...(company.value?.lines.flatMap((line) => line.points.map((point) => point.value)) ?? []))
  return (value / most) * 26
}
const path = (line: CompanyView['lines'][number]) =>
  line.points
    .map(
      (point, n) =>
        `${n === 0 ? 'M' : 'L'}${((point.dailyMicros / (company.value?.totalMicros || 1)) * 110).toFixed(1)} ${(28 - width(point.value)).toFixed(1)}`
    )
    .join(' ')

/** Gives each line the daily budget that is advised, all or none; live ones have it staged. */
async function onTake() {
  said.value = ''
  try {
    const parts = (company.value?.lines ?? [])
      .filter(({ advisedMicros, ownMicros }) => advisedMicros !== ownMicros && advisedMicros > 0)
      .map(({ line, version, advisedMicros }) => ({ line, version, dailyMicros: advisedMicros }))
    if (parts.length > 0) await api.saveDailyBudgets(props.campaignId, parts)
    said.value = 'Each line has its part as its daily budget; on lines that are live it waits on the slip.'
    await Promise.all([load(), manifest.load()])
  } catch (failure) {
    error.value = (failure as ApiError).message
  }
}
</script>

<template>
  <section v-if="company || error || isAsking" class="CampaignCompany" aria-label="The money over its lines" data-test="company">
    <h2>The money over its lines</h2>
    <StateNote v-if="isAsking && !company" reads="Counting what each share buys" is-counted />
    <StateNote v-if="error" :error="error" is-counted @retry="load" />
    <template v-if="company">
      <p v-if="company.among > company.lines.length" class="quiet small" data-test="among">
        The {{ company.lines.length }} lines with most money of its {{ company.among }}: the split below gives all of it to these.
      </p>
      <table :class="{ 'is-waiting': isAsking }">
        <thead>
          <tr>
            <th scope="col">line</th>
            <th scope="col">what 0 to {{ money(company.totalMicros) }} a day buy</th>
            <th scope="col" class="number">a day now</th>
            <th scope="col" class="number">buys {{ MEASURE_WORDS[company.measure] }}</th>
            <th scope="col" class="number">advised</th>
            <th scope="col" class="number">would buy</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in company.lines" :key="line.line">
            <td>{{ line.name }}</td>
            <td>
              <svg
                width="112"
                height="30"
                role="img"
                :aria-label="line.points.map((point) => `${money(point.dailyMicros)} buy ${about(point.value)}`).join(', ')">
                <path :d="path(line)" fill="none" stroke="var(--water-2)" stroke-width="1.5" />
              </svg>
            </td>
            <td class="number">{{ line.ownMicros === null ? 'no limit' : money(line.ownMicros) }}</td>
            <td class="number">{{ about(line.buysNow) }}</td>
            <td class="number">{{ money(line.advisedMicros) }}</td>
            <td class="number">{{ about(line.buysAdvised) }}</td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <th scope="row" colspan="3">each alone, together</th>
            <td class="number">{{ about(sum((line) => line.buysNow)) }}</td>
            <td class="number">{{ money(sum((line) => line.advisedMicros)) }}</td>
            <td class="number">{{ about(sum((line) => line.buysAdvised)) }}</td>
          </tr>
        </tfoot>
      </table>
      <p v-if="!disabled">
        <button class="plain" type="button" data-test="take-split" @click="onTake">Give each line the part advised</button>{{ ' '
        }}<span role="status">{{ said }}</span>
      </p>
      <p v-if="company.lines.some((line) => line.advisedMicros === 0)" class="quiet small">
        A line that is advised nothing keeps its budget: pause or end it if you agree.
      </p>
      <p v-for="pair in shownPairs" :key="`${pair.first} ${pair.second}`" class="CampaignCompany-pair">
        “{{ names.get(pair.first) }}” and “{{ names.get(pair.second) }}” both match <b>{{ about(pair.opportunitiesADay) }}</b> a day, of
        {{ about(ofLine.get(pair.first)?.opportunitiesADay ?? 0) }} and {{ about(ofLine.get(pair.second)?.opportunitiesADay ?? 0) }}, and
        share {{ about(pair.people) }} people: the dearer bid takes what both match.
      </p>
      <p v-if="shownPairs.length < pairs.length">
        <button class="plain" type="button" data-test="all-pairs" @click="isWhole = true">
          and {{ pairs.length - shownPairs.length }} more pairs
        </button>
      </p>
      <p v-if="pairs.length === 0" class="quiet small">No two of its lines match the same opportunity.</p>
    </template>
  </section>
</template>

<style>
.CampaignCompany table.is-waiting td {
  opacity: 0.55;
}

.CampaignCompany tfoot td,
.CampaignCompany tfoot th {
  border-bottom: 1px solid var(--rule-2);
  font-weight: 600;
}

.CampaignCompany-pair {
  font: 13.5px/1.5 var(--serif);
}
</style>
