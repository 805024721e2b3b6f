<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElInput, ElInputNumber, ElOption, ElRadio, ElRadioGroup, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-input-number.css'
import 'element-plus/theme-chalk/el-radio.css'
import 'element-plus/theme-chalk/el-radio-group.css'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-option.css'
import { AIM_WORDS, withModel, withTail, type Goal, type LineDraft } from '@tin-harbor/core/buying'
import { FORMATS, MODELS_OF, MODEL_WORDS, type Format, type PriceModel, isWatched } from '@tin-harbor/core/taxonomy'
import { WHOLE_HOUR_ZONES } from '@tin-harbor/core/time'
import { VIEW_SECONDS, type ViewSeconds } from '@tin-harbor/core/response'
import { viewWords, type LinePhraseOf } from '@tin-harbor/core/wording'
import { money, shortDate } from '@/composables/formats'
import { useLineEdit } from '@/composables/line-edit'
import CapFields from '@/parts/CapFields.vue'
import DayField from '@/parts/DayField.vue'
import FieldRow from '@/parts/FieldRow.vue'
import LimitFields from '@/parts/LimitFields.vue'
import MoneyField from '@/parts/MoneyField.vue'
import AdjustmentFields from './AdjustmentFields.vue'
import BuysField from './BuysField.vue'
import HourField from './HourField.vue'
import HoursField from './HoursField.vue'
import StepFields from './StepFields.vue'
import { withFormat } from './with-format'

/** The field or fields of one part of a line, as its clause and its phrase edit it. */
export interface LineFieldProps {
  of: LinePhraseOf
}
defineProps<LineFieldProps>()
const emit = defineEmits<{ dropped: [words: string] }>()
const { draft, problems, campaign, disabled, figures, change, onProblem } = useLineEdit()

const problem = (field: string) => problems.value[field]
/** A problem anywhere below a field, for lists whose rows have paths of their own. */
const problemUnder = (field: string) =>
  Object.entries(problems.value).find(([path]) => path === field || path.startsWith(`${field}[`) || path.startsWith(`${field}.`))?.[1]

/** What a day may cost at one place of buying. */
const PLACE_LIMITS = [
  { field: 'placementDailyMicros', id: 'line-placement', label: 'On one placement' },
  { field: 'sourceDailyMicros', id: 'line-source', label: 'Through one source' }
] as const
const unit = computed(() => MODEL_WORDS[draft.value.price.model])
type Bidding = 'fixed' | 'follow' | 'aim'
type AimEvent = NonNullable<LineDraft['price']['aim']>['event']
const ALWAYS: readonly AimEvent[] = ['conversion', 'click', 'view', 'stay']
/** What else can be aimed at where the campaign's goal is that. */
const OF_GOAL: Partial<Record<Goal, AimEvent>> = { reach: 'person', pages: 'page', revenue: 'value' }
const aims = computed(() => {
  const own = OF_GOAL[campaign.value?.goal ?? 'visits']
  const chosen = draft.value.price.aim?.event
  return [...new Set([...(own ? [own] : []), ...ALWAYS, ...(chosen ? [chosen] : [])])]
})
const bidding = computed((): Bidding => (draft.value.price.aim ? 'aim' : draft.value.price.follow ? 'follow' : 'fixed'))

/** An aim begins at what a click costs here at the bid; the bid stays as it was, for the way back. */
function setBidding(way: Bidding) {
  change((d) => {
    d.price.follow = way === 'follow'
    d.price.aim = way === 'aim' ? { event: 'click', micros: 500_000 } : null
    if (way === 'aim') d.price.maxMicros ??= d.price.bidMicros
  })
}
function setView(value: string) {
  const chosen = value === '' ? null : (Number(value) as ViewSeconds)
  change((d) => (d.viewSeconds = chosen))
}
/** Amounts become those of the new unit, at what the forecast expects; what was assumed is said. */
const assumed = ref<string | null>(null)
function setModel(model: PriceModel) {
  const day = figures.value?.day
  const wins = day?.wins.value ?? 0
  const rates = day && wins > 0 ? { clickRate: day.visits.value / wins, viewRate: day.views.value / wins } : null
  const next = withModel(draft.value.price, model, rates)
  change((d) => (d.price = next.price))
  assumed.value = next.assumed ?? 'Nothing is forecast to convert its amounts by: type them anew.'
}
function setFormat(format: Format) {
  const { draft: next, dropped } = withFormat(draft.value, format)
  change((d) => Object.assign(d, next))
  emit('dropped', dropped)
}
/** A zone in which the line's own hours lie elsewhere on the clock of the day. */
const zoneWords = computed(() =>
  draft.value.hours?.clock === 'line' ? 'Its hours are read in this zone: another moves them with it.' : undefined
)
/** Caps that hold beside the line's own, and which allows least a day. */
const capHint = computed(() => {
  const own = draft.value.caps.map((cap) => ({ ...cap, of: 'the line' }))
  const all = [...own, ...(campaign.value?.caps ?? []).map((cap) => ({ ...cap, of: 'the campaign' }))]
  if (all.length === 0) return 'Without a cap one person may see it any number of times.'
  const said = (cap: (typeof all)[number]) => `${cap.times} in ${cap.hours} hours of ${cap.of}`
  const least = all.reduce((a, b) => (b.times / Math.max(24, b.hours) < a.times / Math.max(24, a.hours) ? b : a))
  const others = all
    .filter((cap) => cap.of === 'the campaign')
    .map(said)
    .join(' and ')
  return all.length === 1 && others === ''
    ? undefined
    : `${others === '' ? '' : `All lines count in ${others}. `}Over days ${said(least)} allows least.`
})
const campaignWords = computed(() => {
  const { dailyMicros = null, totalMicros = null } = campaign.value?.budget ?? {}
  return [dailyMicros === null ? '' : `${money(dailyMicros)} a day`, totalMicros === null ? '' : `${money(totalMicros)} in all`]
    .filter(Boolean)
    .join(' and ')
})
</script>

<template>
  <template v-if="of === 'format'">
    <FieldRow label="Format" :problem="problem('format')">
      <ElRadioGroup
        :model-value="draft.format"
        :disabled="disabled"
        aria-label="Format"
        @update:model-value="(format) => setFormat(format as Format)"
        ><ElRadio v-for="format in FORMATS" :key="format" :value="format" :label="format"
      /></ElRadioGroup>
    </FieldRow>
  </template>
  <FieldRow v-else-if="of === 'buys'" label="Buys" :problem="problemUnder('buys')">
    <BuysField :draft="draft" :disabled="disabled" @change="(buys) => change((d) => (d.buys = buys))" />
  </FieldRow>
  <template v-else-if="of === 'flight'">
    <FieldRow label="First day" for="line-start" :problem="problem('flight.startDate') ?? problem('flight.startHour')">
      <DayField
        id="line-start"
        :model-value="draft.flight.startDate"
        :disabled="disabled"
        @update:model-value="(date) => change((d) => (d.flight.startDate = date ?? ''))" />
      <HourField
        :model-value="draft.flight.startHour ?? null"
        label="Hour at which it starts"
        none="from the start of the day"
        before="at"
        :disabled="disabled"
        @update:model-value="(hour) => change((d) => (d.flight.startHour = hour))" />
      <span v-if="campaign" class="quiet small LineField-beside"
        >the campaign runs {{ shortDate(campaign.flight.startDate) }}
        {{ campaign.flight.endDate ? `to ${shortDate(campaign.flight.endDate)}` : 'on' }}</span
      >
    </FieldRow>
    <FieldRow label="Last day" for="line-end" :problem="problem('flight.endDate') ?? problem('flight.endHour')">
      <DayField
        id="line-end"
        :model-value="draft.flight.endDate"
        placeholder="open"
        :disabled="disabled"
        @update:model-value="(date) => change((d) => Object.assign(d.flight, { endDate: date }, date === null ? { endHour: null } : {}))" />
      <HourField
        v-if="draft.flight.endDate !== null"
        :model-value="draft.flight.endHour ?? null"
        label="Hour at which it ends"
        none="to the end of the day"
        before="until"
        :disabled="disabled"
        @update:model-value="(hour) => change((d) => (d.flight.endHour = hour))" />
    </FieldRow>
    <FieldRow label="Days are of" :problem="problem('zone')" :hint="zoneWords">
      <ElSelect
        :model-value="draft.zone"
        filterable
        :disabled="disabled"
        aria-label="Time zone"
        @update:model-value="(zone: string) => change((d) => (d.zone = zone))"
        ><ElOption v-for="zone in WHOLE_HOUR_ZONES" :key="zone" :value="zone" :label="zone"
      /></ElSelect>
    </FieldRow>
  </template>
  <div v-else-if="of === 'hours'" class="LineField-hours" role="group" aria-label="Hours">
    <HoursField />
    <p v-if="problemUnder('hours')" class="FieldRow-problem" role="alert">{{ problemUnder('hours') }}</p>
  </div>
  <FieldRow v-else-if="of === 'once'" label="Once cleared">
    <ElRadioGroup
      :model-value="draft.onceCleared"
      :disabled="disabled"
      aria-label="Once cleared"
      @update:model-value="(once) => change((d) => (d.onceCleared = once as LineDraft['onceCleared']))">
      <ElRadio value="start" label="start with the flight" /><ElRadio value="wait" label="wait for release" />
    </ElRadioGroup>
  </FieldRow>
  <template v-else-if="of === 'bid' || of === 'aim'">
    <FieldRow v-if="MODELS_OF[draft.format].length > 1" label="Paid by" :problem="problem('price.model')">
      <ElRadioGroup
        :model-value="draft.price.model"
        :disabled="disabled"
        aria-label="Paid by"
        @update:model-value="(model) => setModel(model as PriceModel)"
        ><ElRadio
          v-for="model in MODELS_OF[draft.format]"
          :key="model"
          :value="model"
          :label="model === 'CPM' ? 'the thousand' : MODEL_WORDS[model].slice(2)"
      /></ElRadioGroup>
      <span v-if="assumed" class="quiet small LineField-assumed" role="status" data-test="assumed">{{ assumed }}</span>
    </FieldRow>
    <FieldRow label="Bids" :problem="problemUnder('price.aim') ?? problem('price.follow')">
      <ElRadioGroup
        :model-value="bidding"
        :disabled="disabled"
        aria-label="How it bids"
        @update:model-value="(way) => setBidding(way as Bidding)">
        <ElRadio value="fixed" label="a fixed bid" /><ElRadio
          v-if="draft.price.model === 'CPM'"
          value="follow"
          label="follow the market" /><ElRadio value="aim" label="towards an aim" />
      </ElRadioGroup>
      <span v-if="bidding === 'follow'" class="quiet small"
        >The least that wins what the plan needs, placement by placement, never above the bid.</span
      >
    </FieldRow>
    <FieldRow
      v-if="draft.price.aim"
      label="Aim"
      for="line-aim"
      :problem="problemUnder('price.aim')"
      hint="Bids follow what each opportunity is expected to bring, learned from results; never above the maximum.">
      <span class="LineField-aim">
        <MoneyField
          id="line-aim"
          :model-value="draft.price.aim.micros"
          unit="for"
          :disabled="disabled"
          @problem="onProblem('price.aim.micros', $event)"
          @update:model-value="(micros) => change((d) => d.price.aim && (d.price.aim.micros = micros ?? 0))" />
        <ElSelect
          :model-value="draft.price.aim.event"
          :disabled="disabled"
          aria-label="What the aim is for"
          @update:model-value="(event: AimEvent) => change((d) => d.price.aim && (d.price.aim.event = event))"
          ><ElOption v-for="event in aims" :key="event" :value="event" :label="AIM_WORDS[event]"
        /></ElSelect>
      </span>
    </FieldRow>
    <FieldRow v-if="!draft.price.aim" label="Base bid" for="line-bid" :problem="problem('price.bidMicros')">
      <MoneyField
        id="line-bid"
        :model-value="draft.price.bidMicros"
        :unit="unit"
        :disabled="disabled"
        @problem="onProblem('price.bidMicros', $event)"
        @update:model-value="(micros) => change((d) => (d.price.bidMicros = micros))" />
    </FieldRow>
  </template>
  <FieldRow v-else-if="of === 'maximum'" label="Maximum bid" for="line-max" :problem="problem('price.maxMicros')">
    <MoneyField
      id="line-max"
      :model-value="draft.price.maxMicros"
      :unit="`${unit}; never above`"
      :disabled="disabled"
      @problem="onProblem('price.maxMicros', $event)"
      @update:model-value="(micros) => change((d) => (d.price.maxMicros = micros))" />
  </FieldRow>
  <template v-else-if="of === 'view'">
    <FieldRow
      v-if="isWatched(draft.format)"
      label="Viewed"
      for="line-view"
      :problem="problem('viewSeconds')"
      hint="What counts as a view, and is paid for where views are: an ad that is shorter counts at its end.">
      <select
        id="line-view"
        class="inline"
        :value="draft.viewSeconds ?? ''"
        :disabled="disabled"
        @change="setView(($event.target as HTMLSelectElement).value)">
        <option value="">{{ viewWords(null) }}</option>
        <option v-for="seconds in VIEW_SECONDS" :key="seconds" :value="seconds">{{ viewWords(seconds) }}</option>
      </select>
    </FieldRow>
  </template>
  <FieldRow v-else-if="of === 'repeat'" label="Each repeat" for="line-repeat" :problem="problem('price.repeatDiscount')">
    <ElInputNumber
      id="line-repeat"
      :model-value="(draft.price.repeatDiscount ?? 0) / 10"
      :min="0"
      :max="100"
      :precision="1"
      :controls="false"
      :disabled="disabled"
      class="LineField-short"
      @update:model-value="(share) => change((d) => (d.price.repeatDiscount = Math.round((share ?? 0) * 10)))" />
    <span class="quiet small LineField-beside">% less than the showing before it to the same person</span>
  </FieldRow>
  <FieldRow v-else-if="of === 'adjustments'" label="Adjustments" :problem="problemUnder('price.adjustments')"
    ><AdjustmentFields
  /></FieldRow>
  <FieldRow v-else-if="of === 'steps'" label="Bid steps" :problem="problemUnder('price.steps')"><StepFields /></FieldRow>
  <template v-else-if="of === 'limits'">
    <FieldRow label="At most" :hint="campaignWords && `The campaign allows ${campaignWords} for all its lines.`">
      <LimitFields
        id="line"
        :budget="draft.budget"
        :problems="problems"
        :disabled="disabled"
        @problem="onProblem"
        @change="(field, value) => change((d) => (d.budget[field] = value))" />
    </FieldRow>
    <FieldRow v-for="{ field, id, label } in PLACE_LIMITS" :key="field" :label="label" :for="id" :problem="problem(`budget.${field}`)">
      <MoneyField
        :id="id"
        :model-value="draft.budget[field] ?? null"
        unit="a day"
        :disabled="disabled"
        @problem="onProblem(`budget.${field}`, $event)"
        @update:model-value="(micros) => change((d) => (d.budget[field] = micros))" />
    </FieldRow>
  </template>
  <FieldRow v-else-if="of === 'pacing'" label="Pacing">
    <ElRadioGroup
      :model-value="draft.pacing"
      :disabled="disabled"
      aria-label="Pacing"
      @update:model-value="(pacing) => change((d) => (d.pacing = pacing as LineDraft['pacing']))">
      <ElRadio value="even" label="evenly over the day" /><ElRadio value="traffic" label="with the traffic" /><ElRadio
        value="fast"
        label="as fast as it can" />
    </ElRadioGroup>
  </FieldRow>
  <FieldRow v-else-if="of === 'rotation'" label="Ads">
    <ElRadioGroup
      :model-value="draft.rotation ?? 'weight'"
      :disabled="disabled"
      aria-label="How ads take turns"
      @update:model-value="(rotation) => change((d) => (d.rotation = rotation as LineDraft['rotation']))">
      <ElRadio value="weight" label="by weight" /><ElRadio value="even" label="in turn" /><ElRadio
        value="learning"
        label="learn which serves the goal" />
    </ElRadioGroup>
  </FieldRow>
  <FieldRow v-else-if="of === 'caps'" label="Caps" :problem="problemUnder('caps')" :hint="capHint">
    <CapFields :caps="draft.caps" :disabled="disabled" @change="(caps) => change((d) => (d.caps = caps))" />
  </FieldRow>
  <FieldRow v-else-if="of === 'gap'" label="Gap" for="line-gap" :problem="problem('gapMinutes')">
    <ElInputNumber
      id="line-gap"
      :model-value="draft.gapMinutes ?? undefined"
      :min="1"
      :max="43_200"
      :controls="false"
      :disabled="disabled"
      class="LineField-short"
      @update:model-value="(minutes) => change((d) => (d.gapMinutes = minutes ?? null))" />
    <span class="quiet small LineField-beside">minutes at least between two exposures of a person</span>
  </FieldRow>
  <FieldRow v-else-if="of === 'landing'" label="Landing link" for="line-landing" :problem="problem('landing')">
    <ElInput
      id="line-landing"
      :model-value="draft.landing"
      :disabled="disabled"
      placeholder="https://"
      @update:model-value="(landing: string) => change((d) => (d.landing = landing.trim()))" />
    <p v-if="campaign?.linkTail && draft.landing" class="FieldRow-hint">
      With the tail of its campaign people land on {{ withTail(draft.landing, campaign.linkTail) }}
    </p>
  </FieldRow>
</template>

<style>
.LineField-assumed {
  display: block;
}

.FieldRow .el-select {
  max-width: 420px;
}

.FieldRow .el-checkbox,
.FieldRow .el-radio {
  height: 24px;
  margin-right: 18px;
}

.LineField-aim {
  display: flex;
  gap: 8px;
}

.LineField-beside {
  margin-left: 10px;
}

.LineField-hours {
  padding: 8px 0;
}

.LineField-short.el-input-number {
  width: 76px;
}
</style>
