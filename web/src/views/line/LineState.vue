<script setup lang="ts">
import { computed, ref } from 'vue'
import type { LineView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { marketTime } from '@/composables/formats'
import { useSession } from '@/stores/session'

/** How the line stands, and the moves from there: released, paused, gone on with, ended. */
export interface LineStateProps {
  line: LineView
}
const props = defineProps<LineStateProps>()
const emit = defineEmits<{ moved: [line: LineView] }>()
const session = useSession()
const mayLive = computed(() => session.may('live'))
const hasChanges = computed(() => (props.line.inForce?.changes.length ?? 0) > 0)
/** By when the last of its ads is answered, while it waits for that. */
const reviewWords = computed(() => {
  const { reviews, state } = props.line
  const waiting = reviews.filter((one) => one.state === 'waits')
  if (state === 'refused') return 'all its ads were refused; mend them, or answer what was said'
  if (state !== 'in review' || waiting.length === 0) return ''
  // The reviewer and publishers of deals look at the same ad.
  const ads = new Set(waiting.map(({ ad }) => ad)).size
  return `${ads} of its ads ${ads === 1 ? 'is' : 'are'} answered by ${marketTime(Math.max(...waiting.map(({ byHour }) => byHour)))}`
})
const asksEnd = ref(false)
const error = ref<string | null>(null)

async function onMove(move: 'release' | 'pause' | 'resume' | 'end') {
  error.value = null
  asksEnd.value = false
  try {
    emit('moved', await api.moveLine(props.line.id, move))
  } catch (failure) {
    error.value = (failure as ApiError).message
  }
}
</script>

<template>
  <p class="LineState" data-test="state">
    <b>{{ line.template ? 'template' : line.state }}</b><template v-if="line.inForce"
      >; {{ reviewWords || line.serving }}<template v-if="line.learning">; {{ line.learning }}</template></template
    ><template v-if="hasChanges && line.inForce"
      >;
      <span class="LineState-staged"
        >{{ line.inForce.changes.length }} {{ line.inForce.changes.length === 1 ? 'edit is' : 'edits are' }} not live yet</span
      ></template
    >
    <span v-if="session.maySteer" class="LineState-moves">
      <button v-if="line.waits" class="plain" type="button" @click="onMove('release')">Release</button>
      <button v-if="line.state === 'live'" class="plain" type="button" @click="onMove('pause')">Pause</button>
      <button v-if="line.state === 'paused'" class="plain" type="button" @click="onMove('resume')">Go on</button>
      <button
        v-if="mayLive && ['live', 'paused', 'cleared'].includes(line.state)"
        class="plain"
        type="button"
        :aria-expanded="asksEnd"
        @click="asksEnd = !asksEnd">
        End
      </button>
    </span>
    <span v-if="asksEnd" class="LineState-asks"
      >It buys nothing from the next hour on. <button class="plain" type="button" data-test="end-now" @click="onMove('end')">End it</button
      >{{ ' ' }}<button class="plain" type="button" @click="asksEnd = false">Keep it</button></span
    >
    <span v-if="line.state === 'ended' && mayLive && !hasChanges" class="quiet small">
      An edit that is put live, such as a longer flight, brings it back.</span
    >
  </p>
  <p v-if="error" class="trouble" role="alert">{{ error }}</p>
</template>

<style>
.LineState {
  margin: 4px 0 0;
  font: 13px/1.5 var(--serif);
}

.LineState-staged {
  padding: 0 3px;
  background: var(--brass-wash);
  color: var(--brass-text);
}

.LineState-asks {
  display: inline-block;
  margin-left: 10px;
  padding-left: 9px;
  border-left: 2px solid var(--brass);
}

.LineState-asks button {
  margin-left: 8px;
}

.LineState-moves {
  display: inline-flex;
  gap: 12px;
  margin-left: 14px;
  font-family: var(--sans) !important;
  font-size: 12.5px !important;
}
</style>
