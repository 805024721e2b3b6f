<script setup lang="ts">
import { computed } from 'vue'
import { ElInputNumber } from 'element-plus'
import 'element-plus/theme-chalk/el-input-number.css'
import type { Budget } from '@tin-harbor/core/buying'
import MoneyField from '@/parts/MoneyField.vue'

/** Limits of money and impressions by day, week, month and in all. */
export interface LimitFieldsProps {
  budget: Budget
  /** Begins the ids of the fields. */
  id: string
  problems: Record<string, string>
  disabled?: boolean
}
const props = defineProps<LimitFieldsProps>()
const emit = defineEmits<{ change: [field: keyof Budget, value: number | null]; problem: [field: string, message: string | null] }>()

const PERIODS = [
  { period: 'daily', words: 'a day' },
  { period: 'weekly', words: 'a week' },
  { period: 'monthly', words: 'a month' },
  { period: 'total', words: 'in all' }
] as const
const wrong = computed(() =>
  PERIODS.flatMap(({ period }) => [`budget.${period}Micros`, `budget.${period}Impressions`])
    .map((field) => props.problems[field])
    .filter(Boolean)
)
</script>

<template>
  <div class="LimitFields">
    <table>
      <thead>
        <tr>
          <td />
          <th v-for="{ period, words } in PERIODS" :key="period" scope="col">{{ words }}</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">money</th>
          <td v-for="{ period, words } in PERIODS" :key="period">
            <MoneyField
              :id="`${id}-${period}`"
              :model-value="budget[`${period}Micros`] ?? null"
              :label="`Money ${words}`"
              :disabled="disabled"
              @problem="$emit('problem', `budget.${period}Micros`, $event)"
              @update:model-value="(micros) => $emit('change', `${period}Micros`, micros)" />
          </td>
        </tr>
        <tr>
          <th scope="row">impressions</th>
          <td v-for="{ period, words } in PERIODS" :key="period">
            <ElInputNumber
              :id="`${id}-${period}-shown`"
              :model-value="budget[`${period}Impressions`] ?? undefined"
              :min="1"
              :controls="false"
              :disabled="disabled"
              :aria-label="`Impressions ${words}`"
              @update:model-value="(count) => emit('change', `${period}Impressions`, count ?? null)" />
          </td>
        </tr>
      </tbody>
    </table>
    <p v-for="message in wrong" :key="message" class="FieldRow-problem" role="alert">{{ message }}</p>
  </div>
</template>

<style>
.LimitFields table {
  border-collapse: collapse;
}

.LimitFields th {
  padding-right: 8px;
  color: var(--ink-2);
  font-weight: 400;
  font-size: 12px;
  text-align: left;
}

.LimitFields td {
  padding: 2px 6px 2px 0;
}

.LimitFields .MoneyField .el-input,
.LimitFields .el-input-number {
  width: 92px;
}

.LimitFields .el-input-number .el-input__inner {
  text-align: left;
}
</style>
