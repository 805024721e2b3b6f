<script setup lang="ts">
import { computed, nextTick, onMounted, ref, useTemplateRef, watch } from 'vue'
import { phraseTitle, type PhraseOf } from '@tin-harbor/core/buying'
import { DIMENSION_KINDS } from '@tin-harbor/core/dimensions'
import type { Sentence } from '@tin-harbor/core/forecast'
import { DATA_COSTS } from '@tin-harbor/core/market'
import { COUNTRIES, COUNTRY_GROUPS, REGIONS } from '@tin-harbor/core/places'
import { FORMATS, findSegment } from '@tin-harbor/core/taxonomy'
import { about, cpm } from '@/composables/formats'
import HourGrid from '@/parts/HourGrid.vue'
import StateNote from '@/parts/StateNote.vue'
import { usePhraseChoices } from './use-phrase-choices'

/** The values of one phrase, with the traffic and the price of each for the rest of the sentence. */
export interface PhraseChooserProps {
  sentence: Sentence
  of: PhraseOf
  /** Which restriction by it, where some values are only wanted and others left out. */
  nth?: number
  /** Stands in the text instead of over it. */
  inline?: boolean
}
const props = defineProps<PhraseChooserProps>()
const emit = defineEmits<{ change: [sentence: Sentence]; close: [] }>()

const alike = computed(() => props.sentence.targeting.restrictions.filter((one) => one.dimension === props.of))
const restriction = computed(() => alike.value[props.nth ?? 0] ?? null)
const kind = computed(() => (props.of === 'format' || props.of === 'hours' ? null : DIMENSION_KINDS[props.of]))
/** A value takes in all before it. */
const isUpwards = computed(() => kind.value?.inOrder === 'upwards')
const order = computed(() => kind.value?.values ?? [])
const chosen = computed<readonly string[]>(() => (props.of === 'format' ? props.sentence.formats : (restriction.value?.values ?? [])))
const isOut = computed(() => restriction.value?.mode === 'exclude')
const { survey, error, isAsking, typed, count, isCounted, shown } = usePhraseChoices(props, () => chosen.value)

const active = ref(0)
watch(typed, () => (active.value = 0))
const search = useTemplateRef('search')
const list = useTemplateRef('list')
onMounted(() => nextTick(() => search.value?.focus()))

function set(values: readonly string[], mode = restriction.value?.mode ?? onlyMode.value ?? 'include') {
  const { sentence, of: phrase } = props
  if (phrase === 'format') {
    emit('change', { ...sentence, formats: FORMATS.filter((format) => values.includes(format)) })
    return
  }
  const others = sentence.targeting.restrictions
  const next = { ...(restriction.value ?? {}), dimension: phrase as Exclude<PhraseOf, 'format' | 'hours'>, mode, values: [...values] }
  const restrictions = restriction.value ? others.map((one) => (one === restriction.value ? next : one)) : [...others, next]
  emit('change', { ...sentence, targeting: { restrictions: restrictions.filter((one) => one.values.length > 0 || one.group) } })
}
function toggle(value: string) {
  if (isUpwards.value) {
    set(chosen.value.includes(value) ? [] : [value])
    return
  }
  set(chosen.value.includes(value) ? chosen.value.filter((other) => other !== value) : [...chosen.value, value])
}
const withExact = (exact: boolean) =>
  restriction.value &&
  emit('change', {
    ...props.sentence,
    targeting: { restrictions: props.sentence.targeting.restrictions.map((one) => (one === restriction.value ? { ...one, exact } : one)) }
  })

function onKey(event: KeyboardEvent) {
  if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    event.preventDefault()
    active.value = Math.min(shown.value.length - 1, Math.max(0, active.value + (event.key === 'ArrowDown' ? 1 : -1)))
    void nextTick(() => list.value?.querySelector('.is-at')?.scrollIntoView({ block: 'nearest' }))
  } else if (event.key === 'Enter') {
    event.preventDefault()
    const one = shown.value[active.value]
    if (one && event.shiftKey) set([one.value])
    else if (one) toggle(one.value)
  }
}
const isOn = (value: string) =>
  isUpwards.value && chosen.value.length > 0
    ? order.value.indexOf(value) <= Math.max(...chosen.value.map((one) => order.value.indexOf(one)))
    : chosen.value.includes(value)
/** What knowing a segment costs, micros a thousand: added to cost, not to the bid. */
const costOf = (name: string) => DATA_COSTS[findSegment(name)?.index ?? -1] ?? 0
const onlyMode = computed(() => kind.value?.mode ?? null)
const hint = computed(() =>
  props.of === 'where' ? `${COUNTRIES.length} countries, ${REGIONS.length} regions` : isUpwards.value ? 'Each takes in all above it.' : ''
)
</script>

<template>
  <div
    class="PhraseChooser"
    :class="{ 'is-inline': inline }"
    role="dialog"
    :aria-label="`Choose by ${phraseTitle(of)}`"
    @keydown.esc.stop="$emit('close')">
    <template v-if="of === 'hours'">
      <HourGrid :hours="sentence.hours" :disabled="false" @update:hours="(hours) => $emit('change', { ...sentence, hours })" />
    </template>
    <template v-else>
      <input
        ref="search"
        v-model="typed"
        class="PhraseChooser-search"
        type="search"
        :aria-label="`Search by ${phraseTitle(of)}`"
        :placeholder="`search, ↑ ↓, Enter to choose, Shift Enter for only this`"
        aria-controls="phrase-values"
        :aria-activedescendant="`phrase-${active}`"
        @keydown="onKey" />
      <p v-if="of === 'where'" class="PhraseChooser-groups">
        <button
          v-for="group in COUNTRY_GROUPS"
          :key="group.name"
          class="plain"
          type="button"
          @click="set([...new Set([...chosen, ...group.codes])])">
          {{ group.name }}
        </button>
      </p>
      <StateNote v-if="error" :error="error" is-counted @retry="count" />
      <StateNote v-else-if="isCounted && !survey" reads="Counting each" is-counted />
      <ul
        id="phrase-values"
        ref="list"
        role="listbox"
        aria-multiselectable="true"
        :class="{ 'is-waiting': isAsking }"
        :data-counted="survey || !isCounted ? 'yes' : 'no'">
        <li
          v-for="(one, n) in shown.slice(0, 300)"
          :id="`phrase-${n}`"
          :key="one.value"
          role="option"
          :aria-selected="isOn(one.value)"
          :class="{ 'is-at': n === active, 'is-on': isOn(one.value), 'is-child': one.isChild }"
          @click="toggle(one.value)">
          <i aria-hidden="true">{{ isOn(one.value) ? (isOut ? '✕' : '✓') : '' }}</i>
          <span
            >{{ one.words }}<small v-if="one.also" class="quiet"> &nbsp;{{ one.also }}</small
            ><small v-if="of === 'segments' && costOf(one.value) > 0" class="quiet"> data {{ cpm(costOf(one.value)) }}</small></span
          >
          <button class="plain" type="button" tabindex="-1" @click.stop="set([one.value])">only this</button>
          <b>{{ one.aDay > 0 ? about(one.aDay) : isCounted && !one.isChild ? 'none' : '' }}</b><em>{{
            one.aDay > 0 ? cpm(one.half) : ''
          }}</em>
        </li>
        <li v-if="shown.length === 0 && (survey || !isCounted)" class="quiet">Nothing is called that.</li>
      </ul>
      <p class="PhraseChooser-foot">
        <span class="quiet">{{ isCounted ? 'a day, and the CPM that wins half.' : '' }} {{ hint }}</span>
        <label v-if="restriction && alike.length === 1 && !onlyMode"
          ><input type="checkbox" :checked="isOut" @change="set(chosen, isOut ? 'include' : 'exclude')" /> leave these out</label
        >
        <label v-if="restriction && of === 'category'"
          ><input type="checkbox" :checked="!restriction.exact" @change="withExact(!restriction?.exact)" /> with all below them</label
        >
      </p>
    </template>
    <p class="PhraseChooser-buttons">
      <button
        v-if="chosen.length > 0 || (of === 'hours' && sentence.hours)"
        class="plain"
        type="button"
        data-test="drop"
        @click="of === 'hours' ? $emit('change', { ...sentence, hours: null }) : set([])">
        Take this phrase away
      </button>
      <button class="plain" type="button" @click="$emit('close')">Done</button>
    </p>
  </div>
</template>

<style>
.PhraseChooser {
  position: absolute;
  z-index: 20;
  top: calc(100% + 4px);
  left: 0;
  width: 440px;
  padding: 10px 12px 8px;
  border: 1px solid var(--ink);
  background: var(--paper);
  font: 13px/1.4 var(--sans);
}

.PhraseChooser.is-inline {
  position: static;
  width: auto;
  margin: 2px 0 8px;
  border-color: var(--rule);
}

.PhraseChooser-search {
  width: 100%;
  padding: 5px 8px;
  border: 1px solid var(--rule);
  background: var(--field);
  font: 13px var(--sans);
}

.PhraseChooser-groups {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin: 7px 0 2px;
  font-size: 12px;
}

.PhraseChooser ul {
  max-height: 300px;
  margin: 6px 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}

.PhraseChooser ul.is-waiting b,
.PhraseChooser ul.is-waiting em {
  opacity: 0.45;
}

.PhraseChooser li {
  display: grid;
  grid-template-columns: 18px 1fr auto 58px 50px;
  gap: 6px;
  align-items: baseline;
  padding: 3px 4px;
  border-bottom: 1px solid var(--rule-2);
  cursor: pointer;
}

.PhraseChooser li.is-child span {
  padding-left: 14px;
}

.PhraseChooser li.is-at {
  background: var(--hover);
}

.PhraseChooser li.is-on span {
  font-weight: 600;
}

.PhraseChooser li i {
  color: var(--brass-text);
  font-style: normal;
}

.PhraseChooser li button {
  visibility: hidden;
  font-size: 11.5px;
}

.PhraseChooser li:hover button,
.PhraseChooser li.is-at button {
  visibility: visible;
}

.PhraseChooser li b,
.PhraseChooser li em {
  font: 400 12.5px var(--sans);
  text-align: right;
}

.PhraseChooser-foot,
.PhraseChooser-buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  justify-content: space-between;
  margin: 4px 0 0;
  font-size: 12px;
}
</style>
