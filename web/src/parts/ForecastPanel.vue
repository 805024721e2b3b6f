<script setup lang="ts">
import { computed } from 'vue'
import type { Forecast } from '@tin-harbor/core/forecast'
import { dateOfDay } from '@tin-harbor/core/time'
import { about, count, cpm, decimal, money, perCent, shortDate } from '@/composables/formats'
import { useMarket } from '@/stores/market'

export interface ForecastPanelProps {
  forecast: Forecast | null
  /** The answer before the last edit. */
  was: Forecast | null
  isAsking: boolean
  error: string | null
  /** Why nothing is asked: the draft has a field to mend, or no bid. */
  waitsFor: string | null
  bidMicros: number | null
}
const props = defineProps<ForecastPanelProps>()
defineEmits<{ retry: [] }>()

const market = useMarket()

/** A figure with what it was before the last edit, when it moved by more than its rounding. */
function figure(pick: (forecast: Forecast) => number, words: (value: number) => string) {
  const now = props.forecast ? pick(props.forecast) : null
  const before = props.was ? pick(props.was) : null
  const moved = now !== null && before !== null && words(before) !== words(now)
  return { now: now === null ? '–' : words(now), was: moved ? `was ${words(before)}` : null }
}

const day = computed(() => [
  { ...figure((f) => f.day.matched, about), unit: 'matched a day' },
  { ...figure((f) => f.day.wins, about), unit: 'wins a day' },
  { ...figure((f) => f.day.spendMicros, money), unit: 'spend a day' },
  { ...figure((f) => f.winRate, perCent), unit: 'win rate, of matched' },
  { ...figure((f) => f.day.cpmMicros, cpm), unit: 'CPM paid' },
  { ...figure((f) => f.day.reach, about), unit: 'people in 7 days' }
])
const flight = computed(() => [
  { ...figure((f) => f.flight.matched, about), unit: 'matched' },
  { ...figure((f) => f.flight.wins, about), unit: 'wins' },
  { ...figure((f) => f.flight.spendMicros, money), unit: 'spend' },
  { ...figure((f) => f.flight.reach, about), unit: 'people' },
  { ...figure((f) => f.flight.frequency, decimal), unit: 'times each' },
  { ...figure((f) => f.flight.cpmMicros, cpm), unit: 'CPM paid' }
])

/** A flight beyond 14 days replays the tape twice, so single counts are mostly even then: they are told in pairs. */
const bars = computed(() => {
  const { people = [], replayedDays = 0 } = props.forecast?.flight ?? {}
  const step = replayedDays > 14 ? 2 : 1
  const groups = people.flatMap((_, i) => (i % step === 0 ? [{ from: i + 1, n: people.slice(i, i + step).reduce((sum, n) => sum + n, 0) }] : []))
  const most = Math.max(...groups.map((group) => group.n), 1)
  return groups.map(({ from, n }, i) => ({ times: i === groups.length - 1 ? `${from}+` : step === 2 ? `${from}–${from + 1}` : String(from), n, height: `${(100 * n) / most}%` }))
})

const flightTitle = computed(() => {
  const f = props.forecast?.flight
  if (!f) return 'Flight'
  if (f.open) return `Next ${f.replayedDays} days of an open flight`
  const more = f.days > f.replayedDays ? `; people of the first ${f.replayedDays}` : ''
  return `${f.days === 1 ? 'The last day' : `${f.days} days`} of the flight${more}`
})

const remark = computed(() => {
  const f = props.forecast
  if (!f) return ''
  if (f.day.matched === 0) return 'Nothing on the tape matches. Lift a restriction: the sizes and devices may not meet.'
  if (props.bidMicros === null) return 'Type a bid to see what it wins.'
  if (f.tapeWins < 30) return `Only ${f.tapeWins} such impressions on the tape would be won: too few to say much.`
  if (f.eligibleShare < 0.5) return `The bid is under the floor of ${perCent(1 - f.eligibleShare)} of what matches.`
  if (f.budgetBinds) return `The budget binds, not the bid: without it this bid would spend ${money(f.demandMicros)} a day.`
  return `The bid binds, not the budget: it is first on ${perCent(f.ranks.first)} of what matches, second on ${perCent(f.ranks.second)}.`
})

const tape = computed(() => (props.forecast ? `tape of ${shortDate(dateOfDay(props.forecast.tape.firstDay))} to ${shortDate(dateOfDay(props.forecast.tape.firstDay + props.forecast.tape.days - 1))}` : ''))
</script>

<template>
  <aside class="ForecastPanel" aria-label="Forecast" :aria-busy="isAsking">
    <h2>Forecast <small class="quiet">{{ tape }}</small></h2>
    <p v-if="!market.tapeReady" class="ForecastPanel-note">The tape is being built, {{ perCent(market.tapeShare) }}; the forecast comes in a moment.</p>
    <p v-if="error" class="ForecastPanel-note trouble" role="alert">{{ error }} <button class="plain" type="button" @click="$emit('retry')">Ask again</button></p>
    <p v-if="waitsFor" class="ForecastPanel-note">{{ waitsFor }}</p>
    <div class="ForecastPanel-figures" :class="{ 'is-old': waitsFor !== null || error !== null }" data-test="forecast">
      <dl>
        <div v-for="{ now, was: before, unit } in day" :key="unit">
          <dt>{{ unit }}</dt>
          <dd>{{ now }}</dd>
          <dd v-if="before" class="ForecastPanel-was">{{ before }}</dd>
        </div>
      </dl>
      <h3>{{ flightTitle }}</h3>
      <dl data-test="forecast-flight">
        <div v-for="{ now, was: before, unit } in flight" :key="unit">
          <dt>{{ unit }}</dt>
          <dd>{{ now }}</dd>
          <dd v-if="before" class="ForecastPanel-was">{{ before }}</dd>
        </div>
      </dl>
      <template v-if="forecast && forecast.flight.reach > 0">
        <h3>People by how often they see it</h3>
        <div class="ForecastPanel-bars" role="img" :aria-label="bars.map((bar) => `${bar.times} times: ${count(bar.n)} people`).join('; ')">
          <div v-for="bar in bars" :key="bar.times"><em>{{ bar.n >= 1 ? about(bar.n) : '' }}</em><i :style="{ height: bar.height }" /><span>{{ bar.times }}</span></div>
        </div>
      </template>
    </div>
    <p v-if="remark && waitsFor === null" class="ForecastPanel-remark">{{ remark }}</p>
  </aside>
</template>

<style>
.ForecastPanel {
  padding: 12px 16px;
  overflow: auto;
  border-left: 1px solid var(--rule);
  background: var(--tin-2);
}

.ForecastPanel h2 {
  display: flex;
  justify-content: space-between;
  margin-bottom: 8px;
}

.ForecastPanel h2 small {
  font-weight: 400;
  font-size: 11.5px;
}

.ForecastPanel h3 {
  margin: 14px 0 7px;
  padding-top: 9px;
  border-top: 1px solid var(--rule);
  color: var(--ink-2);
  font: 500 12px var(--sans);
}

.ForecastPanel-note {
  margin-bottom: 9px;
  font-size: 12px;
}

.ForecastPanel-figures.is-old dd {
  color: var(--ink-2);
  font-weight: 400;
}

.ForecastPanel dl {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 9px 10px;
  margin: 0;
}

.ForecastPanel dl > div {
  display: grid;
  align-content: start;
}

.ForecastPanel dt {
  color: var(--ink-2);
  font-size: 11px;
}

.ForecastPanel dd {
  grid-row: 1;
  margin: 0;
  font: 600 19px/1.15 var(--sans);
  font-stretch: 88%;
}

.ForecastPanel dd.ForecastPanel-was {
  grid-row: 3;
  color: var(--brass-text);
  font: 400 11px/1.2 var(--sans);
}

.ForecastPanel-bars {
  display: flex;
  gap: 4px;
  height: 74px;
}

.ForecastPanel-bars > div {
  display: flex;
  flex: 1;
  flex-direction: column;
  justify-content: flex-end;
  text-align: center;
}

.ForecastPanel-bars i {
  min-height: 1px;
  background: var(--water);
}

.ForecastPanel-bars em,
.ForecastPanel-bars span {
  color: var(--ink-2);
  font: 10.5px/1.3 var(--sans);
  font-stretch: 85%;
}

.ForecastPanel-remark {
  margin-top: 12px;
  font: 13px/1.45 var(--serif);
}
</style>
