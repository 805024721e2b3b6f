<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { ElButton } from 'element-plus'

/** A file from the reader's own machine. The same file can be chosen again: it is given each time. */
export interface FileFieldProps {
  words: string
  accept: string
  isMany?: boolean
  disabled?: boolean
  isBusy?: boolean
}
defineProps<FileFieldProps>()
const emit = defineEmits<{ files: [files: readonly File[]] }>()
const field = useTemplateRef('field')
function onChange(event: Event) {
  const own = event.target as HTMLInputElement
  const files = [...(own.files ?? [])]
  own.value = ''
  if (files.length > 0) emit('files', files)
}
</script>

<template>
  <span class="FileField">
    <ElButton size="small" :disabled="disabled" :loading="isBusy" @click="field?.click()">{{ words }}</ElButton>
    <input
      ref="field"
      class="visually-hidden"
      type="file"
      tabindex="-1"
      :accept="accept"
      :multiple="isMany"
      :disabled="disabled"
      :aria-label="words"
      data-test="file"
      @change="onChange" />
  </span>
</template>

<style>
.FileField {
  position: relative;
}
</style>
