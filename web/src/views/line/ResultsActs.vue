<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElButton } from 'element-plus'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { PlacementResult } from '@tin-harbor/core/contract'
import { MODEL_WORDS } from '@tin-harbor/core/wording'
import { api } from '@/api'
import { count } from '@/composables/formats'
import { useAttempt } from '@/composables/use-attempt'
import MoneyField from '@/parts/MoneyField.vue'
import PutOnList from '@/parts/PutOnList.vue'

/** What is done with placements that are pointed at: left out, taken in, bid for at a price of their own, put on a list. */
export interface ResultsActsProps {
  line: number
  model: LineDraft['price']['model']
  rows: readonly PlacementResult[]
}
const props = defineProps<ResultsActsProps>()
const emit = defineEmits<{ done: []; none: [] }>()
const { isBusy, error, attempt } = useAttempt()

const toLeaveOut = computed(() => props.rows.filter((row) => !row.leftOut))
const toTakeIn = computed(() => props.rows.filter((row) => row.leftOut))
const priced = computed(() => props.rows.filter((row) => row.ownMicros !== null))
const ownMicros = ref<number | null>(null)
const placesOf = (rows: readonly PlacementResult[]) => rows.map(({ placement }) => placement)
const done = (what: () => Promise<unknown>) => attempt(what).then((isDone) => isDone && emit('done'))

const onLeaveOut = (out: boolean) => done(() => api.leaveOut(props.line, placesOf((out ? toLeaveOut : toTakeIn).value), out))
const onPrice = (micros: number | null, rows: readonly PlacementResult[]) => done(() => api.ownPrice(props.line, placesOf(rows), micros))
</script>

<template>
  <div class="ResultsActs">
    <b>{{ count(rows.length) }}</b> chosen, from the next hour:
    <ElButton v-if="toLeaveOut.length > 0" type="primary" size="small" :loading="isBusy" data-test="leave-out" @click="onLeaveOut(true)"
      >Leave {{ toLeaveOut.length }} out</ElButton
    >
    <ElButton v-if="toTakeIn.length > 0" size="small" :loading="isBusy" data-test="take-in" @click="onLeaveOut(false)"
      >Take {{ toTakeIn.length }} in</ElButton
    >
    <form @submit.prevent="ownMicros !== null && onPrice(ownMicros, rows)">
      bid <MoneyField id="own-price" v-model="ownMicros" :unit="MODEL_WORDS[model]" label="Own price there" />{{ ' ' }}
      <button class="plain" type="submit" :disabled="isBusy || ownMicros === null" data-test="own-price">there</button>
    </form>
    <button v-if="priced.length > 0" class="plain" type="button" :disabled="isBusy" data-test="usual-price" @click="onPrice(null, priced)">
      bid as elsewhere
    </button>
    <PutOnList kind="placements" :values="placesOf(rows)" />
    <button class="plain" type="button" @click="$emit('none')">none</button>
    <span v-if="error" class="trouble" role="alert">{{ error }}</span>
  </div>
</template>

<style>
.ResultsActs {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: baseline;
  margin: 4px 0 8px;
}

.ResultsActs .MoneyField .el-input {
  width: 84px;
}
</style>
