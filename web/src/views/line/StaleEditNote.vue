<script setup lang="ts">
import type { StaleEdit } from '@/composables/use-stale-edit'
import { fieldName } from './field-names'

export interface StaleEditNoteProps {
  stale: StaleEdit
}
defineProps<StaleEditNoteProps>()
defineEmits<{ settle: [mine: boolean] }>()
</script>

<template>
  <div class="StaleEditNote" role="alert">
    <p><b>This line was changed in the meantime.</b> Your edit is kept here but not saved.</p>
    <ul>
      <li v-for="change in stale.changes" :key="change.field">
        {{ fieldName(change.field) }}: you have <b>{{ change.before }}</b>, saved is <b>{{ change.after }}</b>
      </li>
    </ul>
    <p>
      <button class="plain" type="button" @click="$emit('settle', false)">Take what is saved</button>
      <button class="plain" type="button" @click="$emit('settle', true)">Save mine over it</button>
    </p>
  </div>
</template>

<style>
.StaleEditNote {
  margin: 8px 0;
  padding: 9px 12px;
  border-left: 3px solid var(--hull);
  background: var(--hull-wash);
}

.StaleEditNote ul {
  margin: 4px 0;
  padding-left: 18px;
}

.StaleEditNote button {
  margin-right: 18px;
}
</style>
