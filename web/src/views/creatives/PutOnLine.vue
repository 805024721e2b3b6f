<script setup lang="ts">
import { computed } from 'vue'
import { ElButton } from 'element-plus'
import type { Format } from '@tin-harbor/core/taxonomy'
import { useManifest } from '@/stores/manifest'

/** The foot of what ads are made in: the line that they are put on, the button, and what came of it. */
export interface PutOnLineProps {
  /** By which tests know it. */
  of: string
  advertiser: number | undefined
  format: Format
  /** On the button. */
  words: string
  isBusy: boolean
  disabled: boolean
  /** What was done, in words; empty before. */
  done: string
  messages: readonly string[]
}
const props = defineProps<PutOnLineProps>()
defineEmits<{ make: [] }>()
const line = defineModel<number | null>({ required: true })
const manifest = useManifest()
const lines = computed(() =>
  manifest.lines.filter(
    (one) => one.format === props.format && !one.template && manifest.campaignOf(one.campaignId)?.advertiserId === props.advertiser
  )
)
</script>

<template>
  <footer class="PutOnLine">
    <label
      >on
      <select v-model="line" :data-test="`${of}-line`">
        <option :value="null">no line yet: made for the library</option>
        <option v-for="one in lines" :key="one.id" :value="one.id">{{ manifest.lineName(one.id) }}, {{ one.state }}</option>
      </select></label
    >
    <slot name="terms" />
    <ElButton type="primary" size="small" :loading="isBusy" :disabled="disabled" :data-test="`make-${of}`" @click="$emit('make')">{{
      words
    }}</ElButton>
    <span v-if="done" role="status" :data-test="`${of}-made`"
      >{{ done }}
      <RouterLink v-if="line !== null" :to="{ name: 'line', params: { lineId: line }, query: { clause: 'F' } }"
        >See them on the line</RouterLink
      ></span
    >
    <slot />
    <span v-for="message in messages" :key="message" class="trouble small" role="alert">{{ message }}</span>
    <slot name="refused" />
  </footer>
</template>

<style>
.PutOnLine {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}

.PutOnLine-refused {
  flex-basis: 100%;
  max-height: 90px;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
</style>
