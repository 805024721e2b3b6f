<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { LIST_KINDS } from '@tin-harbor/core/buying'
import type { ListView } from '@tin-harbor/core/contract'
import type { Sentence } from '@tin-harbor/core/forecast'
import { withRestriction, withoutRestriction, type Restriction } from '@tin-harbor/core/targeting'
import { api } from '@/api'
import { about } from '@/composables/formats'
import { useLineEdit } from '@/composables/line-edit'
import { DIMENSION_KINDS, type Dimension, type SegmentGroup } from '@tin-harbor/core/dimensions'
import { useSurvey } from '@/composables/use-survey'
import KeywordHints from '@/parts/KeywordHints.vue'
import PhraseChooser from '@/parts/PhraseChooser.vue'
import SegmentTree from '@/parts/SegmentTree.vue'
import TypedValues from '@/parts/TypedValues.vue'
import RadiusMap from './RadiusMap.vue'

/** What one restriction of the line is chosen with: listed values, typed ones, or groups of segments. */
export interface RestrictionChooserProps {
  dimension: Dimension
  /** Which of the two, where values are both wanted and left out. */
  mode: Restriction['mode'] | null
}
const props = defineProps<RestrictionChooserProps>()
const emit = defineEmits<{ close: [] }>()
const { draft, disabled, change } = useLineEdit()

const alike = computed(() => draft.value.targeting.restrictions.filter((one) => one.dimension === props.dimension))
const nth = computed(() =>
  Math.max(
    0,
    alike.value.findIndex((one) => one.mode === props.mode)
  )
)
const restriction = computed(() => alike.value[nth.value] ?? null)
const sentence = computed<Sentence>(() => ({
  formats: [draft.value.format],
  targeting: draft.value.targeting,
  hours: draft.value.hours ?? null
}))
const isTyped = computed(() => {
  const { values, chooser } = DIMENSION_KINDS[props.dimension]
  return !values && !chooser
})
const way = ref<'list' | 'paste' | 'groups' | 'map'>(restriction.value?.group ? 'groups' : 'list')

function setRestriction(next: Restriction | null) {
  change((d) => {
    const old = restriction.value
    // A restriction that changes its mode keeps its place.
    if (next && old)
      d.targeting = {
        restrictions: d.targeting.restrictions.map((one) => (one.dimension === old.dimension && one.mode === old.mode ? next : one))
      }
    else if (next) d.targeting = withRestriction(d.targeting, next)
    else if (old) d.targeting = withoutRestriction(d.targeting, old)
  })
}
const setGroup = (group: SegmentGroup | null) =>
  setRestriction(
    group === null ? null : { ...(restriction.value ?? { dimension: 'segments', mode: 'include', values: [] }), values: [], group }
  )
const startGroup = () => {
  way.value = 'groups'
  const values = restriction.value?.values ?? []
  if (values.length > 0) setGroup({ join: 'or', parts: [...values] })
}

const onRadius = (code: string) =>
  setRestriction({
    ...(restriction.value ?? { dimension: 'where', mode: 'include', values: [] }),
    values: [...new Set([...(restriction.value?.values ?? []), code])]
  })

/** Saved lists whose values this dimension has; a line that follows one changes with it. */
const lists = shallowRef<ListView[]>([])
onMounted(async () => {
  if (!Object.values(LIST_KINDS).includes(props.dimension as never)) return
  const all = (await api.lists().catch(() => null))?.lists ?? []
  lists.value = all.filter((list) => list.kind !== 'group' && LIST_KINDS[list.kind] === props.dimension && list.values.length > 0)
})
function onList(id: number) {
  const list = lists.value.find((one) => one.id === id)
  if (list)
    setRestriction({
      ...(restriction.value ?? { dimension: props.dimension, mode: 'include' as const }),
      values: [...list.values],
      list: id
    })
  else if (restriction.value) {
    const { list: _, ...kept } = restriction.value
    setRestriction(kept)
  }
}

const { survey, ask } = useSurvey('group')
watch(
  () => [way.value, JSON.stringify(sentence.value)],
  () => {
    if (way.value === 'groups') void ask({ sentence: sentence.value, by: [], without: null, bidMicros: 0 })
  },
  { immediate: true }
)
</script>

<template>
  <div class="RestrictionChooser">
    <p v-if="dimension === 'where' || dimension === 'segments'" class="RestrictionChooser-ways">
      <button class="plain" type="button" :aria-pressed="way === 'list'" @click="way = 'list'">from a list</button>
      <button
        v-if="dimension === 'where'"
        class="plain"
        type="button"
        :aria-pressed="way === 'paste'"
        data-test="paste-places"
        @click="way = 'paste'">
        postal codes, cities
      </button>
      <button
        v-if="dimension === 'where'"
        class="plain"
        type="button"
        :aria-pressed="way === 'map'"
        data-test="radius"
        @click="way = 'map'">
        a radius on the map
      </button>
      <button
        v-if="dimension === 'segments'"
        class="plain"
        type="button"
        :aria-pressed="way === 'groups'"
        data-test="join-segments"
        @click="startGroup">
        joined by all, any, none
      </button>
    </p>
    <p v-if="lists.length > 0 && !disabled" class="RestrictionChooser-ways">
      <label
        >follow the list
        <select
          data-test="follow-list"
          :value="restriction?.list ?? ''"
          @change="onList(Number(($event.target as HTMLSelectElement).value))">
          <option value="">none</option>
          <option v-for="list in lists" :key="list.id" :value="list.id">{{ list.name }}, {{ list.values.length }}</option>
        </select></label
      >
    </p>
    <template v-if="way === 'map'">
      <RadiusMap :country="restriction?.values.find((value) => /^[A-Z]{2}/.test(value))?.slice(0, 2) ?? 'PT'" @add="onRadius" />
      <p><button class="plain" type="button" @click="$emit('close')">Done</button></p>
    </template>
    <template v-else-if="way === 'groups'">
      <SegmentTree :group="restriction?.group ?? { join: 'or', parts: [] }" :disabled="disabled" @change="setGroup" />
      <p class="quiet small" role="status">
        {{ survey ? `${about(survey.total.people)} people in 14 days, with all else that the line asks for` : '' }}
        <button class="plain" type="button" @click="$emit('close')">Done</button>
      </p>
    </template>
    <template v-else-if="isTyped || way === 'paste'">
      <TypedValues :dimension="dimension" :restriction="restriction" :disabled="disabled" @change="setRestriction" @close="emit('close')" />
      <KeywordHints
        v-if="dimension === 'keyword'"
        :sentence="sentence"
        :chosen="restriction?.values ?? []"
        :disabled="disabled"
        @add="(word) => restriction && setRestriction({ ...restriction, values: [...restriction.values, word] })" />
    </template>
    <PhraseChooser
      v-else
      :sentence="sentence"
      :of="dimension"
      :nth="nth"
      inline
      @change="({ targeting }) => change((d) => (d.targeting = targeting))"
      @close="emit('close')" />
  </div>
</template>

<style>
.RestrictionChooser-ways {
  display: flex;
  gap: 16px;
  font-size: 12px;
}

.RestrictionChooser-ways [aria-pressed='true'] {
  color: var(--brass-text);
  text-decoration-color: var(--brass);
}
</style>
