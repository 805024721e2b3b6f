<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { LIST_KINDS, valueWords, type ListKind, type PasteRead } from '@tin-harbor/core/buying'
import { type Restriction } from '@tin-harbor/core/targeting'
import { DIMENSION_KINDS, dimensionTitle, type Dimension } from '@tin-harbor/core/dimensions'
import { api } from '@/api'

/** Values that are typed or pasted, one or ten thousand: each that is not understood is named with its line. */
export interface TypedValuesProps {
  dimension: Dimension
  restriction: Restriction | null
  disabled?: boolean
}
const props = defineProps<TypedValuesProps>()
const emit = defineEmits<{ change: [restriction: Restriction | null]; close: [] }>()

const text = ref('')
const read = shallowRef<PasteRead | null>(null)
const error = ref<string | null>(null)
const chosen = computed(() => props.restriction?.values ?? [])
const kind = computed(() => (Object.keys(LIST_KINDS) as ListKind[]).find((one) => LIST_KINDS[one] === props.dimension) ?? null)
/** A number or two instead of a list. */
const number = computed(() => DIMENSION_KINDS[props.dimension].number)
const noun = computed(() => DIMENSION_KINDS[props.dimension].noun)
const mode = computed(() => props.restriction?.mode ?? DIMENSION_KINDS[props.dimension].mode ?? 'include')

function set(values: readonly string[], over: Partial<Restriction> = {}) {
  const { list: _, ...kept } = props.restriction ?? { dimension: props.dimension, mode: mode.value, values: [] }
  emit('change', values.length === 0 ? null : { ...kept, ...over, values: [...values] })
}
async function onAdd() {
  error.value = null
  if (kind.value) {
    try {
      read.value = await api.readList(kind.value, text.value, [...chosen.value])
      if (read.value.values.length > 0) set([...chosen.value, ...read.value.values])
      text.value = read.value.problems.map(({ text: left }) => left).join('\n')
    } catch (failure) {
      error.value = (failure as Error).message
    }
    return
  }
  const typed = text.value.split(/[\s,;]+/).filter((one) => one !== '')
  const good = typed.filter((one) => DIMENSION_KINDS[props.dimension].isKnown(one))
  read.value = {
    values: good,
    entries: typed.length,
    problems: typed.filter((one) => !good.includes(one)).map((one) => ({ line: 1, text: one, message: `Not a ${noun.value} we know.` }))
  }
  set([...new Set([...chosen.value, ...good])])
  text.value = typed.filter((one) => !good.includes(one)).join(' ')
}
function onNumber(value: string) {
  text.value = value
  const isGood = DIMENSION_KINDS[props.dimension].isKnown(value)
  error.value = value === '' || isGood ? null : `Not a ${noun.value}.`
  if (value === '') set([])
  else if (isGood) set([value])
}
</script>

<template>
  <div class="TypedValues" role="group" :aria-label="`Choose by ${dimensionTitle(dimension)}`" @keydown.esc.stop="$emit('close')">
    <p v-if="number">
      <label
        >{{ noun }}
        <input
          :value="text || chosen[0] || ''"
          class="TypedValues-number"
          :disabled="disabled"
          :placeholder="number.like"
          @input="onNumber(($event.target as HTMLInputElement).value.trim())"
      /></label>
      <span v-if="number.hint" class="quiet small"> {{ number.hint }}</span>
    </p>
    <template v-else>
      <textarea
        v-model="text"
        rows="3"
        :disabled="disabled"
        :aria-label="`Type or paste: ${noun}`"
        :placeholder="
          dimension === 'where'
            ? 'postal codes such as PT 1000-100, cities, radii such as near:38.72,-9.14,25; one a line'
            : `one a line: ${noun}`
        "
        data-test="typed-values" />
      <p>
        <button class="plain" type="button" :disabled="disabled || text.trim() === ''" data-test="add-typed" @click="onAdd">Add</button>
      </p>
      <p v-if="read" class="small" role="status">
        {{ read.values.length }} of {{ read.entries }} read<template v-if="read.problems.length > 0">; left in the box:</template>
      </p>
      <ul v-if="read && read.problems.length > 0" class="trouble small">
        <li v-for="problem in read.problems.slice(0, 12)" :key="problem.line + problem.text">
          line {{ problem.line }}: {{ problem.text }}: {{ problem.message }}
        </li>
        <li v-if="read.problems.length > 12">and {{ read.problems.length - 12 }} more</li>
      </ul>
      <p v-if="chosen.length > 0" class="TypedValues-chosen">
        <span v-for="value in chosen.slice(0, 60)" :key="value"
          >{{ valueWords(dimension, value) }}
          <button
            v-if="!disabled"
            class="plain"
            type="button"
            :aria-label="`Take ${valueWords(dimension, value)} away`"
            @click="set(chosen.filter((one) => one !== value))">
            ✕
          </button></span
        ><span v-if="chosen.length > 60">and {{ chosen.length - 60 }} more</span>
      </p>
    </template>
    <p v-if="error" class="trouble small" role="alert">{{ error }}</p>
    <p class="TypedValues-foot">
      <label v-if="restriction && !DIMENSION_KINDS[dimension].mode"
        ><input
          type="checkbox"
          :checked="mode === 'exclude'"
          :disabled="disabled"
          @change="set(chosen, { mode: mode === 'exclude' ? 'include' : 'exclude' })" />
        leave these out</label
      >
      <label v-if="restriction && dimension === 'keyword'"
        ><input type="checkbox" :checked="!restriction.exact" :disabled="disabled" @change="set(chosen, { exact: !restriction?.exact })" />
        with related words</label
      >
      <button v-if="restriction && !disabled" class="plain" type="button" @click="$emit('change', null)">Take this restriction away</button>
      <button class="plain" type="button" @click="$emit('close')">Done</button>
    </p>
  </div>
</template>

<style>
.TypedValues {
  margin: 2px 0 8px;
  padding: 8px 12px;
  border: 1px solid var(--rule);
}

.TypedValues textarea {
  width: 100%;
  border: 1px solid var(--rule);
  background: var(--field);
}

.TypedValues-number {
  width: 90px;
  border: 1px solid var(--rule);
}

.TypedValues-chosen {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  max-height: 140px;
  overflow: auto;
}

.TypedValues-foot {
  display: flex;
  gap: 18px;
  margin-top: 5px;
  font-size: 12px;
}
</style>
