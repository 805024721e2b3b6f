<script setup lang="ts">
import { ElInput } from 'element-plus'
import { letters } from '@tin-harbor/core/creative'
import { DISPLAY_SIZES } from '@tin-harbor/core/taxonomy'
import type { FileView } from '@tin-harbor/core/contract'
import type { AdField } from './ad-kinds'

/** One part of an ad that is written: a text with its letters counted, a file that the slot takes, a size, a page. */
export interface AdPartProps {
  field: AdField
  said: string
  /** Files that the slot takes as it. */
  files: readonly FileView[]
}
const props = defineProps<AdPartProps>()
const emit = defineEmits<{ write: [said: string]; done: [] }>()

const noneWords = () =>
  props.files.length > 0
    ? 'none'
    : props.field.medium === 'picture'
      ? 'no file of the library fits; one can be cut for it'
      : 'no file of the library fits'
const onSelect = (event: Event) => emit('write', (event.target as HTMLSelectElement | HTMLInputElement).value)
</script>

<template>
  <label
    ><span
      >{{ field.what }}
      <span v-if="field.is === 'text'" :class="letters(said) > (field.most ?? 0) ? 'trouble' : 'quiet'"
        >{{ letters(said) }} of {{ field.most }}{{ field.optional ? ', or none' : '' }}</span
      ></span
    >
    <select v-if="field.is === 'file'" :value="said" :data-test="`ad-${field.part}`" @change="onSelect">
      <option value="">{{ noneWords() }}</option>
      <option v-for="file in files" :key="file.id" :value="`sha256:${file.sha256}`">{{ file.name }}</option>
    </select>
    <select v-else-if="field.is === 'size'" :value="said" :data-test="`ad-${field.part}`" @change="onSelect">
      <option value="">{{ field.optional ? 'none' : 'choose' }}</option>
      <option v-for="one in DISPLAY_SIZES" :key="one" :value="one">{{ one }}</option>
    </select>
    <select v-else-if="field.is === 'stance'" :value="said" :data-test="`ad-${field.part}`" @change="onSelect">
      <option value="">upright, 320x480</option>
      <option value="wide">wide, 480x320</option>
    </select>
    <input
      v-else-if="field.is === 'seconds'"
      :value="said"
      type="number"
      min="0"
      max="180"
      :data-test="`ad-${field.part}`"
      @input="onSelect" />
    <ElInput
      v-else
      :model-value="said"
      size="small"
      :type="field.is === 'markup' ? 'textarea' : 'text'"
      :rows="6"
      :placeholder="field.is === 'link' ? 'https://' : ''"
      :data-test="`ad-${field.part}`"
      @update:model-value="$emit('write', $event)"
      @change="$emit('done')" />
  </label>
</template>
