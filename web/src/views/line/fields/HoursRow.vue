<script setup lang="ts">
import { useFieldProblems } from '@/composables/line-edit'
import HoursField from './HoursField.vue'

const { problemUnder } = useFieldProblems()
</script>

<template>
  <div class="HoursRow" role="group" aria-label="Hours">
    <HoursField />
    <p v-if="problemUnder('hours')" class="FieldRow-problem" role="alert">{{ problemUnder('hours') }}</p>
  </div>
</template>

<style>
.HoursRow {
  padding: 8px 0;
}
</style>
