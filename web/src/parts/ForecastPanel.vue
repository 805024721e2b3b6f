<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import type { LineDraft } from '@tin-harbor/core/buying'
import type {
  Breakdowns,
  Advised,
  Change,
  GoalMeasure,
  Ladder,
  MainFigures,
  Ranged,
  Sieve,
  SieveStep,
  Together
} from '@tin-harbor/core/forecast'
import type { Dimension } from '@tin-harbor/core/dimensions'
import { dateOfDay } from '@tin-harbor/core/time'
import { bindingSentence, paragraphWords } from '@tin-harbor/core/wording'
import { about, cpm, decimal, money, perCent, shortDate, smallMoney } from '@/composables/formats'
import { useAdvice } from '@/composables/use-advice'
import AdviceList from '@/parts/AdviceList.vue'
import BidLadder from '@/parts/BidLadder.vue'
import BreakdownTable from '@/parts/BreakdownTable.vue'
import FrequencyBars from '@/parts/FrequencyBars.vue'
import MatesTable from '@/parts/MatesTable.vue'
import SieveTable from '@/parts/SieveTable.vue'
import { useMarket } from '@/stores/market'

export interface ForecastPanelProps {
  figures: MainFigures | null
  /** The answer before the last edit. */
  was: MainFigures | null
  ladder: Ladder | null
  sieve: Sieve | null
  breakdowns: Breakdowns | null
  advised: Advised | null
  together: Together | null
  /** What advice is ordered by. */
  measure?: GoalMeasure
  draft: LineDraft
  isAsking: boolean
  error: string | null
  /** Why nothing is asked: the draft has a field to mend, or no bid. */
  waitsFor: string | null
  /** Whether this user may change the line. */
  disabled: boolean
}
const props = withDefaults(defineProps<ForecastPanelProps>(), { measure: 'wins' })
const emit = defineEmits<{
  retry: []
  change: [changes: readonly Change[]]
  bid: [micros: number, settled: boolean]
  reorder: [from: number, to: number]
  restrict: [dimension: Dimension]
}>()

const market = useMarket()

/** Figures that were kept to compare with, and the line that they were of. */
const pinned = shallowRef<{ figures: MainFigures; words: string } | null>(null)
const onPin = () => (pinned.value = pinned.value || !props.figures ? null : { figures: props.figures, words: paragraphWords(props.draft) })

/** A figure with its range, and with what it was before the last edit when it moved by more than its rounding. */
function figure(pick: (figures: MainFigures) => Ranged, words: (value: number) => string) {
  const now = props.figures ? pick(props.figures) : null
  const before = props.was ? pick(props.was) : null
  const moved = now !== null && before !== null && words(before.value) !== words(now.value)
  const isRange = now !== null && (now.high === Infinity || words(now.low) !== words(now.high))
  const kept = pinned.value ? words(pick(pinned.value.figures).value) : null
  return {
    kept,
    now: now === null ? '–' : words(now.value),
    range: !isRange ? '' : now.high === Infinity ? `${words(now.low)} or more` : `${words(now.low)} – ${words(now.high)}`,
    was: moved ? `was ${words(before.value)}` : null
  }
}

const day = computed(() => [
  { ...figure((f) => f.day.matched, about), unit: 'matched a day' },
  { ...figure((f) => f.day.wins, about), unit: 'wins a day' },
  { ...figure((f) => f.day.spend, money), unit: 'spend a day' },
  { ...figure((f) => f.day.winRate, perCent), unit: 'win rate, of matched' },
  {
    ...figure(
      (f) => f.day.cpm,
      (value) => (value > 0 ? cpm(value) : '–')
    ),
    unit: 'CPM paid'
  },
  { ...figure((f) => f.day.reach, about), unit: 'people in 7 days' }
])
/** Counts of few are told to a tenth. */
const few = (value: number) => (value < 10 ? decimal(value) : about(value))
const EACH = { views: 'view', visits: 'visit', conversions: 'conversion' } as const
/** What the campaign’s goal counts, where one of it has a cost. */
const costed = computed(() => (props.measure === 'wins' || props.measure === 'reach' ? null : props.measure))
const LEAST_EVENTS = 0.2
function costOf({ flight: { spend, ...counts } }: MainFigures, what: keyof typeof EACH): Ranged {
  const { value, low, high } = counts[what]
  const each = (events: number) => (events > 0 ? spend.value / events : 0)
  // Where next to none may come, nothing says what one would cost at most.
  return { value: each(value), low: each(high), high: low > LEAST_EVENTS ? each(low) : value > 0 ? Infinity : 0 }
}

const flight = computed(() => [
  { ...figure((f) => f.flight.wins, about), unit: 'wins' },
  { ...figure((f) => f.flight.spend, money), unit: 'spend' },
  { ...figure((f) => f.flight.reach, about), unit: 'people' },
  { ...figure((f) => f.flight.frequency, decimal), unit: 'times each' },
  { ...figure((f) => f.flight.views, about), unit: 'views' },
  { ...figure((f) => f.flight.visits, about), unit: 'visits' },
  { ...figure((f) => f.flight.conversions, few), unit: 'conversions' },
  ...(costed.value ? [{ ...figure((f) => costOf(f, costed.value ?? 'visits'), smallMoney), unit: `for one ${EACH[costed.value]}` }] : [])
])

/** Our other lines that buy what this one would win. */
const taken = computed(() => {
  const lines = (props.breakdowns?.taken ?? []).filter(({ wins }) => wins >= 1)
  if (lines.length === 0) return null
  const [first, ...others] = lines.map(({ line, wins }) => ({ name: `L-${line}`, wins: about(wins) }))
  return [`${first.name} takes ${first.wins} of these a day for more`, ...others.map(({ name, wins }) => `${name} ${wins}`)].join(', ')
})

const flightTitle = computed(() => {
  const f = props.figures?.flight
  if (!f) return 'Flight'
  if (f.open) return `Next ${f.replayedDays} days of an open flight`
  const more = f.days > f.replayedDays ? `; people of the first ${f.replayedDays}` : ''
  return `${f.days === 1 ? 'The last day' : `${f.days} days`} of the flight${more}`
})

const { groups, best } = useAdvice(props)

/** How much of the best that was found for the same money the line buys as it stands. */
const possible = computed(() => (props.advised?.possible == null ? null : perCent(props.advised.possible)))
const POSSIBLE =
  'What it buys of the campaign’s goal, of the best that was found for the same money by price, caps, gap, hours and pace: never by lifting a restriction.'

/** Of a line that the tape says little about, and what share of what it matches the bid is over the floor of. */
const fewWords = ({ tapeWins }: MainFigures, share: number) =>
  tapeWins > 0
    ? `Only ${tapeWins} such impressions on the tape would be won: too few to say much.`
    : share === 0
      ? 'The bid is under the floor of all that matches: nothing would be won.'
      : 'Nothing on the tape would be won.'

/** What binds, and the best use of the money in a sentence; before that is known, what the main figures say by themselves. */
const remark = computed(() => {
  const f = props.figures
  if (!f) return ''
  if (f.day.matched.value === 0) {
    const step = props.sieve?.emptiedBy
    const left = step === null || step === undefined ? null : props.sieve?.steps[step]
    return left
      ? `Nothing on the tape matches: ${left.restriction === 'hours' ? 'the hours' : left.restriction.dimension} leaves nothing of what was left before.`
      : 'Nothing on the tape matches. Lift a restriction: the sizes and devices may not meet.'
  }
  if (props.draft.price.bidMicros === null && !props.draft.price.aim) return 'Type a bid to see what it wins.'
  const share = f.day.eligible.value / f.day.matched.value
  const said = f.tooFew
    ? fewWords(f, share)
    : share < 0.5
      ? `The bid is under the floor of ${perCent(1 - share)} of what matches.`
      : bindingSentence(f)
  if (best.value) return `${said} What would help most: ${best.value.words}, for ${best.value.gain}.`
  if (props.advised === null || f.tooFew) return said
  return `${said} No change that was tried buys a twentieth more for the same money, or more at about its price.`
})

const tape = computed(() =>
  props.figures
    ? `tape of ${shortDate(dateOfDay(props.figures.tape.firstDay))} to ${shortDate(dateOfDay(props.figures.tape.firstDay + props.figures.tape.days - 1))}`
    : ''
)
const isOld = computed(() => props.waitsFor !== null || props.error !== null)

function onLift({ restriction }: SieveStep) {
  if (restriction === 'hours') return emit('change', [{ kind: 'hours' }])
  const place = props.draft.targeting.restrictions.findIndex((r) => r.dimension === restriction.dimension && r.mode === restriction.mode)
  if (place >= 0) emit('change', [{ kind: 'restriction', place }])
}
</script>

<template>
  <aside class="ForecastPanel" aria-label="Forecast" :aria-busy="isAsking">
    <h2>
      Forecast <small class="quiet">{{ tape }}; ranges hold in 8 of 10</small>
    </h2>
    <p v-if="figures" class="ForecastPanel-pin">
      <button class="plain" type="button" :aria-pressed="pinned !== null" data-test="pin" @click="onPin">
        {{ pinned ? 'Unpin' : 'Pin these figures' }}
      </button>
      <span v-if="pinned" class="quiet" :title="pinned.words">pinned: {{ pinned.words }}</span>
    </p>
    <p v-if="!market.tapeReady && market.tapeShare < 0" class="ForecastPanel-note" role="alert">
      The tape could not be built: there are no forecasts until the server is started again.
    </p>
    <p v-else-if="!market.tapeReady" class="ForecastPanel-note">
      The tape is being built, {{ perCent(market.tapeShare) }}; the forecast comes in a moment.
    </p>
    <p v-if="error" class="ForecastPanel-note trouble" role="alert">
      {{ error }} <button class="plain" type="button" @click="$emit('retry')">Ask again</button>
    </p>
    <p v-if="waitsFor" class="ForecastPanel-note">{{ waitsFor }}</p>
    <div class="ForecastPanel-figures" :class="{ 'is-old': isOld }" data-test="forecast">
      <dl>
        <div v-for="{ now, range, was: before, kept, unit } in day" :key="unit">
          <dt>{{ unit }}</dt>
          <dd>{{ now }}</dd>
          <dd class="ForecastPanel-range">{{ range }}</dd>
          <dd v-if="kept !== null" class="ForecastPanel-was">{{ kept }} pinned</dd>
          <dd v-else-if="before" class="ForecastPanel-was">{{ before }}</dd>
        </div>
        <div v-if="possible !== null" :title="POSSIBLE" data-test="possible">
          <dt>of what this money could buy</dt>
          <dd>{{ possible }}</dd>
        </div>
      </dl>
      <p v-if="remark && waitsFor === null" class="ForecastPanel-remark" data-test="remark">{{ remark }}</p>
      <p v-if="taken" class="ForecastPanel-note" data-test="taken">{{ taken }}.</p>
      <BidLadder
        v-if="ladder && draft.price.bidMicros !== null"
        :ladder="ladder"
        :bid-micros="draft.price.bidMicros"
        :step="draft.price.model === 'CPM' ? 1000 : 1"
        :disabled="disabled"
        @bid="(micros, settled) => $emit('bid', micros, settled)" />
      <SieveTable
        v-if="sieve"
        :sieve="sieve"
        :disabled="disabled"
        @lift="onLift"
        @reorder="(from, to) => $emit('reorder', from, to)"
        @restrict="(dimension) => $emit('restrict', dimension)" />
      <AdviceList v-if="groups.length > 0" :groups="groups" :disabled="disabled" @change="(changes) => $emit('change', changes)" />
      <MatesTable v-if="together" :together="together" />
      <h3>{{ flightTitle }}</h3>
      <dl data-test="forecast-flight">
        <div v-for="{ now, range, was: before, kept, unit } in flight" :key="unit">
          <dt>{{ unit }}</dt>
          <dd>{{ now }}</dd>
          <dd class="ForecastPanel-range">{{ range }}</dd>
          <dd v-if="kept !== null" class="ForecastPanel-was">{{ kept }} pinned</dd>
          <dd v-else-if="before" class="ForecastPanel-was">{{ before }}</dd>
        </div>
      </dl>
      <template v-if="figures && figures.flight.reach.value > 0">
        <h3>People by how often they see it</h3>
        <FrequencyBars :people="figures.flight.people" :replayed-days="figures.flight.replayedDays" />
      </template>
      <BreakdownTable v-if="breakdowns && figures" :breakdowns="breakdowns" :first-day="figures.flight.firstDay" />
    </div>
  </aside>
</template>

<style>
.ForecastPanel {
  padding: 12px 16px;
  overflow: auto;
  position: relative;
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

.ForecastPanel-pin {
  margin: -4px 0 6px;
  overflow: hidden;
  font-size: 11.5px;
  text-overflow: ellipsis;
  white-space: nowrap;
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
  gap: 8px 10px;
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

.ForecastPanel dd.ForecastPanel-range {
  grid-row: 2;
  min-height: 14px;
  color: var(--ink-2);
  font: 400 11px/1.3 var(--sans);
  font-stretch: 84%;
  white-space: nowrap;
}

.ForecastPanel dl > div > dt {
  grid-row: 3;
}

.ForecastPanel dd.ForecastPanel-was {
  grid-row: 4;
  color: var(--brass-text);
  font: 400 11px/1.2 var(--sans);
}

.ForecastPanel-remark {
  margin-top: 12px;
  font: 13px/1.45 var(--serif);
}
</style>
