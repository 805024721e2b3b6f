<script setup lang="ts">
import { computed } from 'vue'
import { ElInput } from 'element-plus'
import { TAIL_PRESETS, linkFindings } from '@tin-harbor/core/creative'
import { withTail } from '@tin-harbor/core/buying'
import LinkSaid from './LinkSaid.vue'

/** What is added to links: parameters with macros, some of them usual. */
export interface TailFieldProps {
  id: string
  tail: string
  disabled?: boolean
}
const props = defineProps<TailFieldProps>()
const emit = defineEmits<{ change: [tail: string] }>()

/** Any page, to see the tail on. */
const PAGE = 'https://your.page.example/'
const findings = computed(() => (props.tail === '' ? [] : linkFindings(withTail(PAGE, props.tail), { wantsClicks: false })))
function onPreset(event: Event) {
  const select = event.target as HTMLSelectElement
  const preset = TAIL_PRESETS[select.value]
  select.value = ''
  if (preset) emit('change', [props.tail, preset].filter(Boolean).join('&'))
}
</script>

<template>
  <div class="TailField">
    <ElInput
      :id="id"
      :model-value="tail"
      :disabled="disabled"
      placeholder="source=harbor&click=${CLICK_ID}"
      @update:model-value="(typed: string) => $emit('change', typed.trim())" />
    <LinkSaid v-if="tail !== ''" :link="PAGE" :tail="tail" />
    <p v-for="one in findings" :key="one.says" class="small" :class="{ trouble: one.severity === 'stops' }">{{ one.says }}</p>
    <label v-if="!disabled" class="small"
      >add the usual
      <select aria-label="Usual parameters" @change="onPreset">
        <option value="">parameters …</option>
        <option v-for="(_, name) in TAIL_PRESETS" :key="name" :value="name">{{ name }}</option>
      </select></label
    >
  </div>
</template>
