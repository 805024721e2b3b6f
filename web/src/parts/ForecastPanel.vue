<script setup lang="ts">
import { computed } from 'vue'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { Breakdowns, Advised, Change, GoalMeasure, Ladder, MainFigures, Sieve, SieveStep, Together } from '@tin-harbor/core/forecast'
import type { Dimension } from '@tin-harbor/core/dimensions'
import { dateOfDay } from '@tin-harbor/core/time'
import { paragraphWords } from '@tin-harbor/core/wording'
import { perCent, shortDate } from '@/composables/formats'
import { useAdvice } from '@/composables/use-advice'
import AdviceList from '@/parts/AdviceList.vue'
import BidLadder from '@/parts/BidLadder.vue'
import BreakdownTable from '@/parts/BreakdownTable.vue'
import FigureList from '@/parts/FigureList.vue'
import FrequencyBars from '@/parts/FrequencyBars.vue'
import MatesTable from '@/parts/MatesTable.vue'
import SieveTable from '@/parts/SieveTable.vue'
import TermNote from '@/parts/TermNote.vue'
import StateNote from '@/parts/StateNote.vue'
import { useMarket } from '@/stores/market'
import { useForecastFigures } from './use-forecast-figures'
import { useForecastRemark } from './use-forecast-remark'

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
const { pinned, day, flight } = useForecastFigures(props)
const onPin = () => (pinned.value = pinned.value || !props.figures ? null : { figures: props.figures, words: paragraphWords(props.draft) })
const { groups, best } = useAdvice(props)
const { remark, taken, flightTitle } = useForecastRemark(props, () => best.value)

/** How much of the best that was found for the same money the line buys as it stands. */
const possible = computed(() => (props.advised?.possible == null ? null : perCent(props.advised.possible)))
const POSSIBLE =
  'What it buys of the campaign’s goal, of the best that was found for the same money by price, caps, gap, hours and pace: never by lifting a restriction.'

const tape = computed(() =>
  props.figures
    ? `counted on ${shortDate(dateOfDay(props.figures.tape.firstDay))} to ${shortDate(dateOfDay(props.figures.tape.firstDay + props.figures.tape.days - 1))}`
    : ''
)
const isOld = computed(() => props.waitsFor !== null || props.error !== null)

function onLift({ restriction }: SieveStep) {
  if (restriction === 'hours') return emit('change', [{ kind: 'hours' }])
  if (typeof restriction === 'string') return
  const place = props.draft.targeting.restrictions.findIndex((r) => r.dimension === restriction.dimension && r.mode === restriction.mode)
  if (place >= 0) emit('change', [{ kind: 'restriction', place }])
}
</script>

<template>
  <aside class="ForecastPanel" aria-label="Forecast" :aria-busy="isAsking">
    <h2>
      Forecast
      <small class="quiet"
        ><template v-if="tape"><TermNote of="recording" :words="tape" />; <TermNote of="range" words="ranges hold in 8 of 10" /></template
      ></small>
    </h2>
    <p v-if="figures" class="ForecastPanel-pin">
      <button class="plain" type="button" :aria-pressed="pinned !== null" data-test="pin" @click="onPin">
        {{ pinned ? 'Unpin' : 'Pin these figures' }}
      </button>
      <span v-if="pinned" class="quiet" :title="pinned.words">pinned: {{ pinned.words }}</span>
    </p>
    <StateNote
      v-if="error || !market.tapeReady || (!figures && !waitsFor)"
      :error="error"
      reads="Counting what it would win on the recorded days"
      is-counted
      @retry="$emit('retry')" />
    <p v-if="waitsFor" class="ForecastPanel-note">{{ waitsFor }}</p>
    <div v-if="figures" class="ForecastPanel-figures" :class="{ 'is-old': isOld }" data-test="forecast">
      <FigureList :figures="day">
        <div v-if="possible !== null" :title="POSSIBLE" data-test="possible">
          <dt>of what this money could buy</dt>
          <dd>{{ possible }}</dd>
        </div>
      </FigureList>
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
      <FigureList :figures="flight" data-test="forecast-flight" />
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

.ForecastPanel-remark {
  margin-top: 12px;
  font: 13px/1.45 var(--serif);
}
</style>
