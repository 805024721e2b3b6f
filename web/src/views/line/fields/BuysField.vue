<script setup lang="ts">
import { computed, onMounted, shallowRef } from 'vue'
import { ElCheckbox, ElOption, ElSelect } from 'element-plus'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { DealView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { cpm } from '@/composables/formats'

/** Whether a line buys on the open market, by deals, or both. */
export interface BuysFieldProps {
  draft: LineDraft
  disabled: boolean
}
const props = defineProps<BuysFieldProps>()
const emit = defineEmits<{ change: [buys: LineDraft['buys']] }>()
/** Null until they are read. */
const deals = shallowRef<DealView[] | null>(null)
onMounted(async () => {
  deals.value = (await api.deals().catch(() => null))?.deals ?? []
})
const open = computed(() => props.draft.buys?.open ?? true)
const chosen = computed(() => props.draft.buys?.deals ?? [])
/** Deals of the line's format; one that is chosen already stays in sight. */
const offered = computed(() =>
  (deals.value ?? []).filter((deal) => chosen.value.includes(deal.id) || (deal.format === props.draft.format && !deal.isExpired))
)
const set = (nextOpen: boolean, next: number[]) =>
  emit('change', nextOpen && next.length === 0 ? undefined : { open: nextOpen, deals: next })
</script>

<template>
  <div class="BuysField">
    <ElCheckbox
      :model-value="open"
      :disabled="disabled"
      label="on the open market"
      @update:model-value="(value) => set(Boolean(value), [...chosen])" />
    <ElSelect
      v-if="offered.length > 0"
      :model-value="chosen"
      multiple
      filterable
      default-first-option
      :disabled="disabled"
      aria-label="Deals"
      placeholder="by no deal"
      data-test="buys-deals"
      @update:model-value="(value: number[]) => set(open, value)">
      <ElOption
        v-for="deal in offered"
        :key="deal.id"
        :value="deal.id"
        :label="`${deal.id} ${deal.name}, ${cpm(deal.priceMicros)}${deal.isExpired ? ' (ended)' : ''}`" />
    </ElSelect>
    <span v-else-if="deals" class="quiet small"
      >{{ ' ' }}There is no deal for {{ draft.format }} yet: <RouterLink :to="{ name: 'deals' }">ask for one</RouterLink>.</span
    >
  </div>
</template>
