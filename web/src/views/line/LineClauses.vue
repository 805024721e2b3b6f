<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { FixableFinding } from '@tin-harbor/core/buying'
import type { LineView } from '@tin-harbor/core/contract'
import { CLAUSES, CLAUSE_NAMES, clauseOf, clauseOfField, clauseWords, type Clause, type LinePhraseOf } from '@tin-harbor/core/wording'
import { about, perCent } from '@/composables/formats'
import { useLineEdit } from '@/composables/line-edit'
import { useAddress } from '@/composables/use-address'
import FindingNote from './FindingNote.vue'
import FrequencyBars from '@/parts/FrequencyBars.vue'
import LineCreatives from './LineCreatives.vue'
import LineField from './LineField.vue'
import PriceWork from './PriceWork.vue'
import RestrictingClause from './RestrictingClause.vue'

/** The seven clauses: closed each is its sentence, open its editor. The address holds which one is open. */
export interface LineClausesProps {
  line: LineView
  findings: readonly FixableFinding[]
  /** Fields that hold something that could not be read: their clause stays open. */
  unreadable: readonly string[]
}
const props = defineProps<LineClausesProps>()
defineEmits<{ creatives: [line: LineView]; fix: [finding: FixableFinding] }>()
const { draft, disabled, figures, sieve } = useLineEdit()

const part = useAddress().part('clause')
/** The price is where a line is steered most: it is open unless the address says otherwise. */
const open = computed<Clause | null>(() =>
  part.value === '' ? 'D' : part.value === 'none' ? null : (CLAUSES.find((clause) => clause === part.value) ?? 'D')
)
const root = useTemplateRef('root')
const dropped = ref('')
const held = computed(() => props.unreadable.map(clauseOfField).find((clause) => clause !== null) ?? null)

function show(clause: Clause | null) {
  if (held.value !== null && clause !== held.value) return
  part.value = clause === null ? 'none' : clause === 'D' ? '' : clause
}
function onKey(event: KeyboardEvent, place: number) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (by === undefined) return
  event.preventDefault()
  root.value?.querySelectorAll<HTMLElement>('.LineClauses-head')[Math.min(CLAUSES.length - 1, Math.max(0, place + by))]?.focus()
}
defineExpose({
  open,
  /** Opens a clause and puts the cursor into its first field, or a field of it. */
  async go(clause: Clause, selector?: string) {
    show(clause)
    await nextTick()
    await nextTick()
    const body = root.value?.querySelector(`[data-clause-body="${clause}"]`)
    const found =
      (selector ? body?.querySelector<HTMLElement>(selector) : null) ?? body?.querySelector<HTMLElement>('input, button, select, textarea')
    found?.focus()
    // A restriction's chooser is what is wanted, not the words that open it.
    if (selector?.startsWith('[data-dimension') && found?.getAttribute('aria-expanded') === 'false') found.click()
  }
})

/** What each clause leaves, in its own measure. */
function leaves(clause: Clause): string {
  const steps = sieve.value?.steps ?? []
  if (clause === 'A' || clause === 'B') {
    const last = steps.filter((step) => typeof step.restriction !== 'string' && clauseOf(step.restriction.dimension) === clause).at(-1)
    return last ? `${about(last.left)} a day` : sieve.value && clause === 'A' ? `${about(sieve.value.all)} a day` : ''
  }
  const day = figures.value?.day
  if (clause === 'C') {
    const hours = steps.find((step) => step.restriction === 'hours')
    return hours ? `${about(hours.left)} a day` : ''
  }
  if (clause === 'D') return day && draft.value.price.bidMicros !== null ? `${perCent(day.winRate.value)} won` : ''
  if (clause === 'E') return day && draft.value.price.bidMicros !== null ? `${about(day.wins.value)} wins a day` : ''
  if (clause === 'F') {
    const ads = steps.find((step) => step.restriction === 'ads')
    if (ads) return `${about(ads.left)} a day`
    return props.line.ads.length > 0 ? `${props.line.ads.filter((ad) => ad.review === 'cleared').length} cleared` : ''
  }
  return ''
}
const FIELDS: Readonly<Record<'C' | 'D' | 'E' | 'G', readonly LinePhraseOf[]>> = {
  C: ['flight', 'hours', 'once'],
  D: ['bid', 'maximum', 'view', 'repeat', 'adjustments', 'steps'],
  E: ['limits', 'pacing', 'caps', 'gap'],
  G: ['landing']
}
const foundIn = (clause: Clause) => props.findings.filter(({ field }) => clauseOfField(field) === clause)
</script>

<template>
  <div ref="root" class="LineClauses">
    <p v-if="held" class="trouble small" role="alert">
      Clause {{ held }} has a field that cannot be read: mend it before another is opened.
    </p>
    <section v-for="(clause, n) in CLAUSES" :key="clause" :class="{ 'is-open': open === clause }">
      <h2>
        <button
          class="LineClauses-head"
          type="button"
          :data-clause="clause"
          :aria-expanded="open === clause"
          @click="show(open === clause ? null : clause)"
          @keydown="onKey($event, n)">
          <i>{{ clause }}</i><span
            ><b>{{ CLAUSE_NAMES[clause] }}</b> {{ clauseWords(draft, clause, line.ads) }}</span
          >
          <em
            v-if="foundIn(clause).length > 0"
            class="LineClauses-found"
            :class="{ 'is-stopped': foundIn(clause).some(({ severity }) => severity === 'stops') }"
            >{{ foundIn(clause).length }} to look at</em
          ><em>{{ leaves(clause) }}</em>
        </button>
      </h2>
      <div v-if="open === clause" class="LineClauses-body" :data-clause-body="clause">
        <FindingNote
          v-for="finding in foundIn(clause)"
          :key="finding.field + finding.message"
          :finding="finding"
          :disabled="disabled"
          @fix="$emit('fix', finding)" />
        <template v-if="clause === 'A'"
          ><LineField of="format" @dropped="dropped = $event" />
          <p v-if="dropped" class="small" role="status">Dropped with the format: {{ dropped }}. Undo brings it back.</p>
          <LineField of="buys"
        /></template>
        <RestrictingClause v-if="clause === 'A' || clause === 'B'" :clause="clause" />
        <LineCreatives v-else-if="clause === 'F'" :line="line" :disabled="disabled" @changed="$emit('creatives', $event)" />
        <template v-else><LineField v-for="of in FIELDS[clause]" :key="of" :of="of" /></template>
        <PriceWork v-if="clause === 'D'" />
        <template v-if="clause === 'E' && figures && figures.flight.reach.value > 0"
          ><h3>People by how often they see it, as forecast</h3>
          <FrequencyBars :people="figures.flight.people" :replayed-days="figures.flight.replayedDays"
        /></template>
      </div>
    </section>
  </div>
</template>

<style>
.LineClauses section {
  border-bottom: 1px solid var(--rule-2);
}

.LineClauses-head {
  display: flex;
  gap: 12px;
  align-items: baseline;
  width: 100%;
  padding: 9px 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: 400 13px/1.4 var(--sans);
  text-align: left;
  cursor: pointer;
}

.LineClauses-head i {
  flex: 0 0 14px;
  color: var(--brass-text);
  font: 700 14px var(--serif);
}

.LineClauses-head span {
  flex: 1;
}

.LineClauses-head em {
  color: var(--ink-2);
  font-style: normal;
  font-size: 12px;
  white-space: nowrap;
}

.LineClauses-head em.LineClauses-found {
  color: var(--brass-text);
}

.LineClauses-body {
  padding: 0 0 12px 26px;
}

.LineClauses-body h3 {
  margin: 10px 0 5px;
  font: 600 12.5px var(--sans);
}

.LineClauses .LineClauses-found.is-stopped {
  color: var(--hull);
}
</style>
