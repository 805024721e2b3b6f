<script setup lang="ts">
import { computed, ref } from 'vue'
import { SEGMENTS, findSegment } from '@tin-harbor/core/taxonomy'
import type { SegmentGroup } from '@tin-harbor/core/dimensions'

/** Segments joined by all of, any of, none of; groups inside groups. */
export interface SegmentTreeProps {
  group: SegmentGroup
  disabled?: boolean
  depth?: number
}
const props = withDefaults(defineProps<SegmentTreeProps>(), { depth: 1 })
const emit = defineEmits<{ change: [group: SegmentGroup | null] }>()

const typed = ref('')
const names = SEGMENTS.map(({ name }) => name)
const isKnown = computed(() => findSegment(typed.value) !== undefined)
const WORDS = { and: 'in all of', or: 'in any of', not: 'in none of' } as const
const keep = (parts: SegmentGroup['parts']) => emit('change', parts.length === 0 ? null : { ...props.group, parts })
const setPart = (n: number, part: string | SegmentGroup | null) =>
  keep(props.group.parts.flatMap((one, place) => (place !== n ? [one] : part === null ? [] : [part])))
function add() {
  if (!isKnown.value) return
  keep([...props.group.parts, typed.value])
  typed.value = ''
}
function addAsGroup() {
  keep([...props.group.parts, { join: 'or', parts: [typed.value] }])
  typed.value = ''
}
</script>

<template>
  <div class="SegmentTree">
    <p>
      <select
        :value="group.join"
        :disabled="disabled"
        aria-label="How segments are joined"
        @change="$emit('change', { ...group, join: ($event.target as HTMLSelectElement).value as SegmentGroup['join'] })">
        <option v-for="(words, join) in WORDS" :key="join" :value="join">{{ words }}</option>
      </select>
      <button v-if="!disabled && depth > 1" class="plain" type="button" aria-label="Take this group away" @click="$emit('change', null)">
        ✕
      </button>
    </p>
    <ul>
      <li v-for="(part, n) in group.parts" :key="n">
        <template v-if="typeof part === 'string'"
          >{{ part }}
          <button v-if="!disabled" class="plain" type="button" :aria-label="`Take ${part} away`" @click="setPart(n, null)">
            ✕
          </button></template
        >
        <SegmentTree v-else :group="part" :disabled="disabled" :depth="depth + 1" @change="setPart(n, $event)" />
      </li>
      <li v-if="!disabled" class="SegmentTree-new">
        <input v-model="typed" :list="`segments-${depth}`" aria-label="Segment" placeholder="a segment" @keydown.enter.prevent="add" />
        <datalist :id="`segments-${depth}`"><option v-for="name in names" :key="name" :value="name" /></datalist>
        <button class="plain" type="button" :disabled="!isKnown" data-test="add-segment" @click="add">Add</button>
        <button v-if="depth < 5" class="plain" type="button" :disabled="!isKnown" @click="addAsGroup">Add as a group</button>
      </li>
    </ul>
  </div>
</template>

<style>
.SegmentTree ul {
  margin: 0;
  padding-left: 18px;
  border-left: 1px solid var(--rule);
  list-style: none;
}

.SegmentTree-new {
  display: flex;
  gap: 10px;
}

.SegmentTree-new input {
  width: 220px;
  border: 1px solid var(--rule);
}
</style>
