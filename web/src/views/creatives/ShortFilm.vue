<script setup lang="ts">
import { computed } from 'vue'
import { ElButton } from 'element-plus'
import { tenths } from './file-words'

/** Moments of a film that are marked for a short one. */
export interface ShortFilmProps {
  /** The part that is chosen on the strip, which is marked next. */
  from: number
  to: number
}
const props = defineProps<ShortFilmProps>()
const moments = defineModel<{ from: number; to: number }[]>({ required: true })
/** Length that short films are bought by. */
const SHORT_SECONDS = 6
const MOMENT_SECONDS = 2

const length = computed(() => moments.value.reduce((sum, one) => sum + one.to - one.from, 0))
/** The chosen part, or the beginning of a longer one. */
const next = computed(() => ({ from: props.from, to: props.to - props.from > SHORT_SECONDS ? props.from + MOMENT_SECONDS : props.to }))
const meets = computed(() => moments.value.some((one) => one.from < next.value.to && one.to > next.value.from))
const onMark = () => (moments.value = [...moments.value, next.value].sort((a, b) => a.from - b.from))
</script>

<template>
  <div class="ShortFilm small">
    <p>
      Or a short film of moments:
      <ElButton size="small" :disabled="meets" data-test="mark-moment" @click="onMark"
        >Mark {{ tenths(next.from) }} to {{ tenths(next.to) }} s</ElButton
      >
    </p>
    <p v-if="moments.length > 0" role="status">
      <template v-for="one in moments" :key="one.from"
        >{{ tenths(one.from) }} to {{ tenths(one.to)
        }}<button
          class="plain small"
          type="button"
          :aria-label="`Drop the moment at ${tenths(one.from)} s`"
          @click="moments = moments.filter((other) => other !== one)">
          ✕</button
        >{{ ' ' }}</template
      >
      together {{ tenths(length) }} of {{ SHORT_SECONDS }} s
    </p>
  </div>
</template>
