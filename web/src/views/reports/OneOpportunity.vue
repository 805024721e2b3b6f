<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ElButton, ElInputNumber } from 'element-plus'
import 'element-plus/theme-chalk/el-input-number.css'
import type { OpportunityTrace } from '@tin-harbor/core/contract'
import type { Sought } from '@tin-harbor/core/exchange'
import { HOURS_PER_DAY, dateOfDay, dayOfDate, localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { ApiError, api } from '@/api'
import { ORGANISATION_ZONE, count } from '@/composables/formats'
import { useAddress } from '@/composables/use-address'
import DayField from '@/parts/DayField.vue'
import { useMarket } from '@/stores/market'

export interface OneOpportunityProps {
  lineId: number
}
const props = defineProps<OneOpportunityProps>()
const address = useAddress()
const market = useMarket()
const zone = zoneIndex(ORGANISATION_ZONE)
const one = shallowRef<OpportunityTrace | null>(null)
const error = ref<string | null>(null)
const isLooking = ref(false)
/** What was looked for when an hour had no more of it. */
const without = ref<Sought | null>(null)

/** Which one is looked at; kept in the address, so that a link shows the same. */
const part = { hour: address.part('hour'), nth: address.part('nth') }
const hour = ref(Number(part.hour.value) || 0)
const nth = ref(Number(part.nth.value) || 0)
watch(
  () => market.run.hour,
  (now) => {
    if (hour.value === 0 && now > 0) hour.value = now - 1
  },
  { immediate: true }
)
onMounted(() => {
  if (part.hour.value) void look()
})

const newest = computed(() => Math.max(0, market.run.hour - 1))
const startOfDay = computed(() => startOfLocalDay(zone, localDayOf(zone, hour.value)))
const day = computed({
  get: () => dateOfDay(localDayOf(zone, hour.value)),
  set: (date: string | null) => {
    if (date) hour.value = Math.min(newest.value, startOfLocalDay(zone, dayOfDate(date)) + hour.value - startOfDay.value)
  }
})
const clock = computed({
  get: () => hour.value - startOfDay.value,
  set: (value: number | undefined) => {
    if (value !== undefined) hour.value = Math.min(newest.value, startOfDay.value + value)
  }
})
/** From 1, as people count. */
const number = computed({ get: () => nth.value + 1, set: (value: number | undefined) => (nth.value = Math.max(0, (value ?? 1) - 1)) })

async function ask(asked: () => Promise<OpportunityTrace>, sought: Sought | null = null) {
  isLooking.value = true
  error.value = null
  without.value = null
  try {
    one.value = await asked()
    nth.value = one.value.nth
    part.hour.value = String(hour.value)
    part.nth.value = String(nth.value)
  } catch (failure) {
    error.value = (failure as Error).message
    if (failure instanceof ApiError && failure.status === 409) without.value = sought
  }
  isLooking.value = false
}
const look = () => ask(() => api.opportunity(hour.value, nth.value))
/** The next of a kind; the first of the hour while none of it is shown. */
const seek = (sought: Sought) =>
  ask(() => api.seekOpportunity(hour.value, one.value?.hour === hour.value ? nth.value : -1, props.lineId, sought), sought)
function onNext() {
  nth.value++
  void look()
}
function onNextHour(sought: Sought) {
  hour.value++
  void seek(sought)
}

const KINDS: Readonly<Record<Sought, string>> = {
  matched: 'it matched',
  won: 'it won',
  outbid: 'it bid too little for',
  stopped: 'it could win and did not'
}
const BECAME = {
  won: 'won',
  'own line': 'bought by another line of yours, which bid more',
  stopped: 'could win: money, pace or caps stopped it'
} as const
/** Of many lines those that it is not for are told when asked. */
const FEW = 8
const isWhole = ref(false)
const shown = computed(() => {
  const verdicts = one.value?.verdicts ?? []
  const isFor = ({ line, became, failing, verdict }: (typeof verdicts)[number]) =>
    line === props.lineId || became !== null || (failing.length === 0 && verdict !== 'does not match')
  // The line that is looked at first, then who could have won it.
  const rank = (one: (typeof verdicts)[number]) => (one.line === props.lineId ? 0 : isFor(one) ? 1 : 2)
  const ordered = [...verdicts].sort((a, b) => rank(a) - rank(b))
  return isWhole.value || verdicts.length <= FEW ? ordered : ordered.filter(isFor)
})
const price = (micros: number) => (micros / 1000).toFixed(micros < 100 ? 3 : 2)
/** An impression costs a part of a cent. */
const charge = (micros: number) => (micros > 0 ? `€${(micros / 1e6).toPrecision(2)}` : 'nothing')
const two = (n: number) => String(n).padStart(2, '0')
const exposure = (n: number) =>
  n === 1
    ? 'the first time this person saw it'
    : `the person’s ${n}${['th', 'st', 'nd', 'rd'][n % 10 < 4 && Math.floor((n % 100) / 10) !== 1 ? n % 10 : 0]} sight of it in 30 days`
</script>

<template>
  <section class="OneOpportunity" aria-labelledby="one-opportunity">
    <h2 id="one-opportunity" class="ruled">One opportunity</h2>
    <form class="OneOpportunity-which" @submit.prevent="look">
      <label for="trace-day">Of</label> <DayField id="trace-day" v-model="day" /> <label for="trace-clock">in the hour from</label>{{ ' '
      }}<ElInputNumber id="trace-clock" v-model="clock" :min="0" :max="HOURS_PER_DAY" :controls="false" class="OneOpportunity-clock" /><span
        >o’clock, number</span
      >
      <ElInputNumber
        v-model="number"
        aria-label="Number of the opportunity in that hour"
        :min="1"
        :controls="false"
        class="OneOpportunity-number" />
      <ElButton size="small" native-type="submit" :loading="isLooking" data-test="look">Look</ElButton>
    </form>
    <p class="OneOpportunity-next small">
      Next: <template v-if="one"><button class="plain" type="button" @click="onNext">any</button> · </template
      ><template v-for="(words, kind, n) in KINDS" :key="kind"
        ><template v-if="n > 0"> · </template
        ><button class="plain" type="button" :data-test="`seek-${kind}`" @click="seek(kind)">{{ words }}</button></template
      >
    </p>
    <p v-if="error" class="trouble" role="alert">
      {{ error }}
      <button v-if="without && hour < newest" class="plain" type="button" @click="onNextHour(without)">Go on in the hour after it</button>
    </p>
    <template v-if="one">
      <p class="OneOpportunity-facts">
        At {{ two(clock) }}:{{ two(one.minute % 60) }}, number {{ count(one.nth + 1) }} of {{ count(one.count) }}:
        {{ one.robot ? 'a robot' : 'a person' }} in {{ one.country }} on a {{ one.device }} ({{ one.browser }}, {{ one.connection }}) at
        <b>{{ one.property }}</b>, {{ one.position }} ({{ one.size }}){{ one.category ? `, beside ${one.category}` : '' }}, sold by
        {{ one.source }} at {{ one.isFirstPrice ? 'first' : 'second' }} price. Floor {{ price(one.floorMicros) }}, best rival
        {{ one.rivalMicros ? price(one.rivalMicros) : 'none' }}, second {{ one.secondMicros ? price(one.secondMicros) : 'none' }}; all as
        CPM.
        <template v-if="one.bought?.name === null">A line of your organisation that you do not see bought it.</template>
        <template v-else-if="one.bought"
          ><b>{{ one.bought.name }}</b> bought it at {{ price(one.bought.priceMicros) }} and was charged
          {{ charge(one.bought.mediaMicros) }}: {{ exposure(one.bought.nth) }}.
          <a
            v-if="one.bought.click"
            :href="one.bought.click"
            target="_blank"
            rel="noopener"
            title="It counts as a click of this impression from the next market hour on"
            data-test="follow-impression"
            >follow a click on it</a
          ></template
        >
        <template v-else>None of your lines bought it.</template>
      </p>
      <table class="ruled-table OneOpportunity-verdicts">
        <thead>
          <tr>
            <th scope="col">line</th>
            <th scope="col">verdict</th>
            <th scope="col">the bid, step by step</th>
            <th scope="col" class="number">needed</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="verdict in shown" :key="verdict.line" :class="{ 'is-own': verdict.line === lineId }">
            <td>{{ verdict.name }}</td>
            <td>
              <b>{{ verdict.became ? BECAME[verdict.became] : verdict.verdict }}</b><template v-if="verdict.failing.length > 0"
                >: not
                <span v-for="(failing, n) in verdict.failing" :key="failing"
                  ><template v-if="n > 0">; </template>{{ failing }}</span
                ></template
              >
            </td>
            <td>
              <span v-for="(step, n) in verdict.steps" :key="n"
                ><template v-if="n > 0"> → </template>{{ step.what }} {{ price(step.micros) }}</span
              >
            </td>
            <td class="number">{{ price(verdict.needMicros) }}</td>
          </tr>
          <tr v-if="one.verdicts.length === 0">
            <td colspan="4" class="quiet">No line of yours was in force in that hour.</td>
          </tr>
        </tbody>
      </table>
      <p v-if="shown.length < one.verdicts.length">
        <button class="plain" type="button" data-test="all-verdicts" @click="isWhole = true">
          and {{ one.verdicts.length - shown.length }} lines that it is not for
        </button>
      </p>
    </template>
  </section>
</template>

<style>
.OneOpportunity-which {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}

.OneOpportunity-which .el-date-editor.el-input {
  width: 138px;
}

.OneOpportunity-clock {
  width: 54px !important;
}

.OneOpportunity-number {
  width: 92px !important;
}

.OneOpportunity-next {
  margin: 6px 0;
}

.OneOpportunity-facts {
  margin: 8px 0;
  font: 13.5px/1.55 var(--serif);
}

.OneOpportunity-verdicts .is-own td:first-child {
  font-weight: 600;
}
</style>
