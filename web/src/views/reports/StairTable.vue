<script setup lang="ts">
import { computed } from 'vue'
import type { TraceView } from '@tin-harbor/core/contract'
import { dateOfDay } from '@tin-harbor/core/time'
import { about, count, shortDate } from '@/composables/formats'
import { wide } from './wide'

/** The stair from all opportunities to those won: what each restriction and each step of the auction left. */
export interface StairTableProps {
  trace: TraceView
}
const props = defineProps<StairTableProps>()
const most = computed(() => Math.max(1, props.trace.offered))
const largest = computed(() => props.trace.losses[0] ?? null)
</script>

<template>
  <table class="ruled-table StairTable">
    <thead>
      <tr>
        <th scope="col">step</th>
        <th scope="col" class="number">left</th>
        <th scope="col" class="number">taken</th>
        <th scope="col"><span class="visually-hidden">drawn</span></th>
        <th scope="col" class="number">forecast</th>
      </tr>
    </thead>
    <tbody>
      <tr class="StairTable-group">
        <th colspan="5" scope="rowgroup">
          Its restrictions, counted on the days recorded from {{ shortDate(dateOfDay(trace.tapeFirstDay)) }} and scaled to the
          {{ count(trace.hours) }} hours it was in force; ranges hold in 8 of 10
        </th>
      </tr>
      <tr>
        <td>all opportunities</td>
        <td class="number">{{ about(trace.offered) }}</td>
        <td />
        <td class="StairTable-drawn"><i :style="{ width: wide(trace.offered, most) }" /></td>
        <td />
      </tr>
      <tr v-for="(step, n) in trace.sieve" :key="step.name">
        <td>{{ step.name }}</td>
        <td class="number">
          {{ about(step.left) }}
          <small v-if="about(step.low) !== about(step.high)" class="StairTable-range">{{ about(step.low) }} – {{ about(step.high) }}</small>
        </td>
        <td class="number quiet">{{ about((n === 0 ? trace.offered : trace.sieve[n - 1].left) - step.left) }}</td>
        <td class="StairTable-drawn"><i :style="{ width: wide(step.left, most) }" /></td>
        <td />
      </tr>
      <tr class="StairTable-group">
        <th colspan="5" scope="rowgroup">What became of all it matched, from the counts of each hour</th>
      </tr>
      <tr
        v-for="step in trace.stair"
        :key="step.name"
        :class="{ 'is-most': step.lost > 0 && step.outcomes.some((outcome) => largest?.outcomes.includes(outcome)) }">
        <td>{{ step.name }}</td>
        <td class="number">{{ count(step.left) }}</td>
        <td class="number quiet">{{ step.lost > 0 ? count(step.lost) : '' }}</td>
        <td class="StairTable-drawn"><i class="is-exact" :style="{ width: wide(step.left, Math.max(1, trace.matched)) }" /></td>
        <td class="number quiet">{{ step.forecast === null ? '' : about(step.forecast) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style>
.StairTable td:first-child {
  width: 300px;
}

.StairTable td.number {
  width: 92px;
}

.StairTable-range {
  display: block;
  color: var(--ink-2);
  font-size: 11px;
  font-stretch: 84%;
  white-space: nowrap;
}

.StairTable .StairTable-group th {
  padding-top: 12px;
  color: var(--brass-text);
  font: 600 12px var(--serif);
}

.StairTable-drawn i {
  display: block;
  height: 12px;
  margin-top: 2px;
  background: var(--water);
}

.StairTable-drawn i.is-exact {
  background: var(--water-2);
}

.StairTable .is-most td {
  font-weight: 600;
}
</style>
