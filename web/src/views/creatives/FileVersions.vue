<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { ElButton } from 'element-plus'
import type { FileResults, FileView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { count, money, perCent } from '@/composables/formats'
import { useSession } from '@/stores/session'

/** What came of a file, what it took the place of, and another in its place. */
export interface FileVersionsProps {
  file: FileView
  files: readonly FileView[]
}
const props = defineProps<FileVersionsProps>()
const emit = defineEmits<{ saved: [file: FileView]; chosen: [id: number] }>()
const session = useSession()

const results = ref<FileResults | null>(null)
const wanted = ref<number | null>(null)
const error = ref<string | null>(null)
const said = ref<string | null>(null)
const isBusy = ref(false)

/** Files that came before it, the last first. */
const before = computed(() => {
  const found: FileView[] = []
  let looked = props.file.id
  for (let one; (one = props.files.find(({ replacedBy }) => replacedBy === looked)) && !found.includes(one); looked = one.id)
    found.push(one)
  return found
})
const after = computed(() => props.files.find(({ id }) => id === props.file.replacedBy))
/** What could take its place. */
const others = computed(() =>
  props.files.filter(({ id, medium, retired }) => id !== props.file.id && medium === props.file.medium && !retired)
)
const isSeen = computed(() => props.file.medium === 'film' || props.file.medium === 'sound')

async function onReplace() {
  if (wanted.value === null) return
  isBusy.value = true
  error.value = null
  try {
    const { ads, was, by } = await api.replaceFile(props.file.id, { by: wanted.value, version: props.file.version })
    const which = ads === 1 ? '1 ad, which goes' : `${ads} ads, which go`
    said.value = `“${by.name}” is in its place, in ${which} to review again when the line is put live.`
    emit('saved', by)
    emit('saved', was)
  } catch (failure) {
    if (!(failure instanceof ApiError)) throw failure
    error.value = failure.issues.map(({ message }) => message).join(' ') || failure.message
  } finally {
    isBusy.value = false
  }
}

onMounted(async () => {
  // What is on no line, and was on none, has no results to tell.
  results.value = await api.fileResults(props.file.id).catch(() => null)
})
</script>

<template>
  <section v-if="results && results.impressions > 0" data-test="file-results">
    <h3>What came of it</h3>
    <p class="small">
      {{ count(results.impressions) }} impressions for {{ money(results.spendMicros) }}; {{ count(results.clicks) }} clicks,
      {{ perCent(results.clicks / results.impressions, 3) }} ({{ perCent(results.clickRange.low, 3) }} to
      {{ perCent(results.clickRange.high, 3) }})<template v-if="isSeen"
        >; {{ count(results.views) }} views, {{ perCent(results.views / results.impressions) }} ({{ perCent(results.viewRange.low) }} to
        {{ perCent(results.viewRange.high) }})</template
      >; {{ count(results.conversions) }} conversions.
    </p>
  </section>
  <section v-if="before.length > 0 || after">
    <h3>Versions</h3>
    <ul>
      <li v-if="after">
        <button class="plain small" type="button" @click="$emit('chosen', after.id)">{{ after.name }}</button> took its place
      </li>
      <li v-for="one in before" :key="one.id">
        <button class="plain small" type="button" @click="$emit('chosen', one.id)">{{ one.name }}</button> came before
      </li>
    </ul>
  </section>
  <section v-if="session.may('draft') && file.usedBy.length > 0 && others.length > 0" data-test="replace">
    <h3>Another in its place</h3>
    <p class="small">
      <select v-model="wanted" aria-label="File that takes its place">
        <option :value="null" disabled>choose</option>
        <option v-for="one in others" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
      <ElButton size="small" :disabled="wanted === null" :loading="isBusy" data-test="replace-do" @click="onReplace">
        Replace it on {{ file.usedBy.length === 1 ? '1 line' : `${file.usedBy.length} lines` }}
      </ElButton>
    </p>
    <p class="small quiet">Each ad of it goes to review again; a line in force shows what it has until then.</p>
    <p v-if="error" class="trouble small" role="alert">{{ error }}</p>
  </section>
  <p v-if="said" class="small" role="status">{{ said }}</p>
</template>
