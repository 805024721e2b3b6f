<script setup lang="ts">
import { computed } from 'vue'
import { ElCheckbox, ElCheckboxGroup, ElInput, ElInputNumber, ElOption, ElOptionGroup, ElRadio, ElRadioGroup, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-checkbox.css'
import 'element-plus/theme-chalk/el-checkbox-group.css'
import 'element-plus/theme-chalk/el-input-number.css'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-option-group.css'
import 'element-plus/theme-chalk/el-popper.css'
import 'element-plus/theme-chalk/el-radio.css'
import 'element-plus/theme-chalk/el-radio-group.css'
import 'element-plus/theme-chalk/el-scrollbar.css'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-tag.css'
import { AIM_WORDS, languageName, type CampaignView, type LineDraft } from '@tin-harbor/core/buying'
import { COUNTRIES, REGIONS_OF } from '@tin-harbor/core/places'
import { valuesOf, withValues, type Dimension } from '@tin-harbor/core/targeting'
import { AGES, BRANCHES, CATEGORIES, DEVICE_TYPES, FORMATS, LANGUAGES, MODELS_OF, deviceWords, shapesOf, type Format } from '@tin-harbor/core/taxonomy'
import { WHOLE_HOUR_ZONES } from '@tin-harbor/core/time'
import { money, shortDate } from '@/composables/formats'
import BuysField from './BuysField.vue'
import CapFields from '@/parts/CapFields.vue'
import DayField from '@/parts/DayField.vue'
import FieldRow from '@/parts/FieldRow.vue'
import HourGrid from '@/parts/HourGrid.vue'
import LimitFields from '@/parts/LimitFields.vue'
import MoneyField from '@/parts/MoneyField.vue'

export interface LineFieldsProps {
  problems: Record<string, string>
  campaign?: CampaignView
  disabled: boolean
}
const props = defineProps<LineFieldsProps>()
const draft = defineModel<LineDraft>('draft', { required: true })
const unreadable = defineModel<Record<string, string>>('unreadable', { required: true })
const emit = defineEmits<{ edited: [] }>()

function change(edit: (draft: LineDraft) => void) {
  edit(draft.value)
  emit('edited')
}

function onProblem(field: string, message: string | null) {
  const { [field]: _, ...others } = unreadable.value
  unreadable.value = message === null ? others : { ...others, [field]: message }
  emit('edited')
}

/** Chosen values of a dimension. */
const chosen = (dimension: Dimension) => computed({
  get: () => [...valuesOf(draft.value.targeting, dimension)],
  set: (values: string[]) => change((d) => (d.targeting = withValues(d.targeting, dimension, 'include', values)))
})
const where = chosen('where')
const devices = chosen('device')
const sizes = chosen('size')
const categories = chosen('category')
const languages = chosen('language')
const ages = chosen('age')

/** Slots and prices differ between formats: what the new one does not have is dropped. */
function setFormat(format: Format) {
  change((d) => {
    d.format = format
    d.targeting = withValues(d.targeting, 'size', 'include', [])
    // Deals are of one format.
    d.buys = undefined
    if (!MODELS_OF[format].includes(d.price.model)) d.price.model = MODELS_OF[format][0]
    if (d.price.model !== 'CPM') Object.assign(d.price, { aim: null, follow: false })
  })
}
const UNITS = { CPM: 'CPM', CPC: 'a click', view: 'a view', visit: 'a visit' } as const
const unit = computed(() => UNITS[draft.value.price.model])
type Bidding = 'fixed' | 'follow' | 'aim'
type AimEvent = NonNullable<LineDraft['price']['aim']>['event']
const AIM_EVENTS: readonly AimEvent[] = ['conversion', 'click', 'view', 'stay']
const bidding = computed((): Bidding => (draft.value.price.aim ? 'aim' : draft.value.price.follow ? 'follow' : 'fixed'))

/** An aim begins at what a click costs here at the bid; the bid stays as it was, for the way back. */
function setBidding(way: Bidding) {
  change((d) => {
    d.price.follow = way === 'follow'
    d.price.aim = way === 'aim' ? { event: 'click', micros: 500_000 } : null
    if (way === 'aim') d.price.maxMicros ??= d.price.bidMicros
  })
}
const leftOut = computed(() => valuesOf(draft.value.targeting, 'placement', 'exclude').length)

const problem = (field: string) => props.problems[field]
/** A problem anywhere below a field, for lists whose rows have paths of their own. */
const problemUnder = (field: string) => Object.entries(props.problems).find(([path]) => path === field || path.startsWith(`${field}[`) || path.startsWith(`${field}.`))?.[1]
const campaignWords = computed(() => {
  const { campaign } = props
  if (!campaign) return ''
  const { dailyMicros, totalMicros } = campaign.budget
  return [dailyMicros === null ? '' : `${money(dailyMicros)} a day`, totalMicros === null ? '' : `${money(totalMicros)} in all`].filter(Boolean).join(' and ')
})
</script>

<template>
  <fieldset class="LineFields" :disabled="disabled">
    <FieldRow label="Name" for="line-name" :problem="problem('name')">
      <ElInput id="line-name" :model-value="draft.name" :disabled="disabled" maxlength="120" @update:model-value="(name: string) => change((d) => (d.name = name))" />
    </FieldRow>

    <FieldRow label="Format" :problem="problem('format')">
      <ElRadioGroup :model-value="draft.format" :disabled="disabled" aria-label="Format" @update:model-value="(format) => setFormat(format as Format)"><ElRadio v-for="format in FORMATS" :key="format" :value="format" :label="format" /></ElRadioGroup>
    </FieldRow>

    <h2 class="ruled">Where and to whom</h2>
    <FieldRow label="Where" :problem="problemUnder('targeting')" hint="Countries or regions; any of them.">
      <ElSelect v-model="where" multiple filterable default-first-option clearable :disabled="disabled" aria-label="Countries and regions" placeholder="not chosen yet" data-test="where">
        <ElOptionGroup v-for="country in COUNTRIES" :key="country.code" :label="country.name">
          <ElOption :value="country.code" :label="country.name" />
          <ElOption v-for="region in REGIONS_OF[country.index]" :key="region.code" :value="region.code" :label="`${region.name}, ${country.code}`" />
        </ElOptionGroup>
      </ElSelect>
    </FieldRow>
    <FieldRow label="Devices" hint="None chosen is all of them.">
      <ElCheckboxGroup v-model="devices" :disabled="disabled" aria-label="Device types"><ElCheckbox v-for="type in DEVICE_TYPES" :key="type" :value="type" :label="deviceWords(type)" /></ElCheckboxGroup>
    </FieldRow>
    <FieldRow label="Ages" hint="None chosen is all of them.">
      <ElCheckboxGroup v-model="ages" :disabled="disabled" aria-label="Ages"><ElCheckbox v-for="age in AGES" :key="age" :value="age" :label="age" /></ElCheckboxGroup>
    </FieldRow>
    <FieldRow label="Languages">
      <ElSelect v-model="languages" multiple filterable default-first-option clearable :disabled="disabled" aria-label="Languages" placeholder="any"><ElOption v-for="language in LANGUAGES" :key="language" :value="language" :label="languageName(language)" /></ElSelect>
    </FieldRow>
    <FieldRow label="Categories" hint="A branch takes all below it in.">
      <ElSelect v-model="categories" multiple filterable default-first-option clearable :disabled="disabled" aria-label="Content categories" placeholder="any" data-test="categories">
        <ElOptionGroup v-for="branch in BRANCHES" :key="branch.name" :label="branch.name">
          <ElOption v-for="category in CATEGORIES.filter((other) => other.branch === branch.index)" :key="category.name" :value="category.name" :label="category.name" />
        </ElOptionGroup>
      </ElSelect>
    </FieldRow>
    <FieldRow :label="draft.format === 'display' ? 'Sizes' : 'Slots'" hint="None chosen is all of them.">
      <ElCheckboxGroup v-model="sizes" :disabled="disabled" aria-label="Slot sizes"><ElCheckbox v-for="size in shapesOf(draft.format)" :key="size" :value="size" :label="size" /></ElCheckboxGroup>
    </FieldRow>
    <FieldRow v-if="leftOut > 0" label="Left out"><span>{{ leftOut }} {{ leftOut === 1 ? 'placement' : 'placements' }}; take them in again in the results</span></FieldRow>

    <h2 class="ruled">Flight and price</h2>
    <FieldRow label="First day" for="line-start" :problem="problem('flight.startDate')">
      <DayField id="line-start" :model-value="draft.flight.startDate" :disabled="disabled" @update:model-value="(date) => change((d) => (d.flight.startDate = date ?? ''))" />
      <span v-if="campaign" class="quiet small LineFields-beside">the campaign runs {{ shortDate(campaign.flight.startDate) }} {{ campaign.flight.endDate ? `to ${shortDate(campaign.flight.endDate)}` : 'on' }}</span>
    </FieldRow>
    <FieldRow label="Last day" for="line-end" :problem="problem('flight.endDate')">
      <DayField id="line-end" :model-value="draft.flight.endDate" placeholder="open" :disabled="disabled" @update:model-value="(date) => change((d) => (d.flight.endDate = date))" />
    </FieldRow>
    <FieldRow label="Days are of">
      <ElSelect :model-value="draft.zone" filterable :disabled="disabled" aria-label="Time zone" @update:model-value="(zone: string) => change((d) => (d.zone = zone))"><ElOption v-for="zone in WHOLE_HOUR_ZONES" :key="zone" :value="zone" :label="zone" /></ElSelect>
    </FieldRow>
    <FieldRow label="Buys" :problem="problemUnder('buys')">
      <BuysField :draft="draft" :disabled="disabled" @change="(buys) => change((d) => (d.buys = buys))" />
    </FieldRow>
    <FieldRow v-if="MODELS_OF[draft.format].length > 1" label="Paid by" :problem="problem('price.model')">
      <ElRadioGroup :model-value="draft.price.model" :disabled="disabled" aria-label="Paid by" @update:model-value="(model) => change((d) => Object.assign(d.price, { model }, model === 'CPM' ? {} : { aim: null, follow: false }))"><ElRadio v-for="model in MODELS_OF[draft.format]" :key="model" :value="model" :label="model === 'CPM' ? 'the thousand' : UNITS[model].slice(2)" /></ElRadioGroup>
    </FieldRow>
    <FieldRow v-if="draft.price.model === 'CPM'" label="Bids" :problem="problemUnder('price.aim') ?? problem('price.follow')">
      <ElRadioGroup :model-value="bidding" :disabled="disabled" aria-label="How it bids" @update:model-value="(way) => setBidding(way as Bidding)">
        <ElRadio value="fixed" label="a fixed bid" /><ElRadio value="follow" label="follow the market" /><ElRadio value="aim" label="towards an aim" />
      </ElRadioGroup>
      <span v-if="bidding === 'follow'" class="quiet small">The least that wins what the plan needs, placement by placement, never above the bid.</span>
    </FieldRow>
    <FieldRow v-if="draft.price.aim" label="Aim" for="line-aim" :problem="problemUnder('price.aim')" hint="Bids follow what each opportunity is expected to bring, learned from results; never above the maximum.">
      <span class="LineFields-aim">
        <MoneyField id="line-aim" :model-value="draft.price.aim.micros" unit="for" :disabled="disabled" @problem="onProblem('price.aim.micros', $event)" @update:model-value="(micros) => change((d) => d.price.aim && (d.price.aim.micros = micros ?? 0))" />
        <ElSelect :model-value="draft.price.aim.event" :disabled="disabled" aria-label="What the aim is for" @update:model-value="(event: AimEvent) => change((d) => d.price.aim && (d.price.aim.event = event))"><ElOption v-for="event in AIM_EVENTS" :key="event" :value="event" :label="AIM_WORDS[event]" /></ElSelect>
      </span>
    </FieldRow>
    <FieldRow v-if="!draft.price.aim" label="Base bid" for="line-bid" :problem="problem('price.bidMicros')">
      <MoneyField id="line-bid" :model-value="draft.price.bidMicros" :unit="unit" :disabled="disabled" @problem="onProblem('price.bidMicros', $event)" @update:model-value="(micros) => change((d) => (d.price.bidMicros = micros))" />
    </FieldRow>
    <FieldRow label="Maximum bid" for="line-max" :problem="problem('price.maxMicros')">
      <MoneyField id="line-max" :model-value="draft.price.maxMicros" :unit="`${unit}; never above`" :disabled="disabled" @problem="onProblem('price.maxMicros', $event)" @update:model-value="(micros) => change((d) => (d.price.maxMicros = micros))" />
    </FieldRow>

    <h2 class="ruled">Pace and caps</h2>
    <FieldRow label="At most" :hint="campaignWords && `The campaign allows ${campaignWords} for all its lines.`">
      <LimitFields id="line" :budget="draft.budget" :problems="problems" :disabled="disabled" @problem="onProblem" @change="(field, value) => change((d) => (d.budget[field] = value))" />
    </FieldRow>
    <FieldRow label="On one placement" for="line-placement" :problem="problem('budget.placementDailyMicros')">
      <MoneyField id="line-placement" :model-value="draft.budget.placementDailyMicros ?? null" unit="a day" :disabled="disabled" @problem="onProblem('budget.placementDailyMicros', $event)" @update:model-value="(micros) => change((d) => (d.budget.placementDailyMicros = micros))" />
    </FieldRow>
    <FieldRow label="Pacing">
      <ElRadioGroup :model-value="draft.pacing" :disabled="disabled" aria-label="Pacing" @update:model-value="(pacing) => change((d) => (d.pacing = pacing as LineDraft['pacing']))">
        <ElRadio value="even" label="evenly over the day" /><ElRadio value="traffic" label="with the traffic" /><ElRadio value="fast" label="as fast as it can" />
      </ElRadioGroup>
    </FieldRow>
    <FieldRow label="Ads">
      <ElRadioGroup :model-value="draft.rotation ?? 'weight'" :disabled="disabled" aria-label="How ads take turns" @update:model-value="(rotation) => change((d) => (d.rotation = rotation as LineDraft['rotation']))">
        <ElRadio value="weight" label="by weight" /><ElRadio value="even" label="in turn" /><ElRadio value="learning" label="learn which serves the goal" />
      </ElRadioGroup>
    </FieldRow>
    <FieldRow label="Hours" :problem="problemUnder('hours')">
      <HourGrid :hours="draft.hours ?? null" :disabled="disabled" @update:hours="(hours) => change((d) => (d.hours = hours))" />
    </FieldRow>
    <FieldRow label="Caps" :problem="problemUnder('caps')" :hint="draft.caps.length === 0 ? 'Without a cap one person may see it any number of times.' : undefined">
      <CapFields :caps="draft.caps" :disabled="disabled" @change="(caps) => change((d) => (d.caps = caps))" />
    </FieldRow>
    <FieldRow label="Gap" for="line-gap" :problem="problem('gapMinutes')">
      <ElInputNumber id="line-gap" :model-value="draft.gapMinutes ?? undefined" :min="1" :max="43_200" :controls="false" :disabled="disabled" class="LineFields-gap" @update:model-value="(minutes) => change((d) => (d.gapMinutes = minutes ?? null))" />
      <span class="quiet small LineFields-beside">minutes at least between two exposures of a person</span>
    </FieldRow>

    <h2 class="ruled">Landing and start</h2>
    <FieldRow label="Landing link" for="line-landing" :problem="problem('landing')">
      <ElInput id="line-landing" :model-value="draft.landing" :disabled="disabled" placeholder="https://" @update:model-value="(landing: string) => change((d) => (d.landing = landing.trim()))" />
    </FieldRow>
    <FieldRow label="Once cleared">
      <ElRadioGroup :model-value="draft.onceCleared" :disabled="disabled" aria-label="Once cleared" @update:model-value="(once) => change((d) => (d.onceCleared = once as LineDraft['onceCleared']))">
        <ElRadio value="start" label="start with the flight" /><ElRadio value="wait" label="wait for release" />
      </ElRadioGroup>
    </FieldRow>
  </fieldset>
</template>

<style>
.LineFields {
  margin: 0;
  padding: 0;
  border: 0;
}

.LineFields h2.ruled {
  margin: 14px 0 4px;
}

.LineFields .el-select {
  max-width: 420px;
}

.LineFields .el-checkbox,
.LineFields .el-radio {
  height: 24px;
  margin-right: 18px;
}

.LineFields-aim {
  display: flex;
  gap: 8px;
}

.LineFields-beside {
  margin-left: 10px;
}

.LineFields-gap.el-input-number {
  width: 76px;
}
</style>
