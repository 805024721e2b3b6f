<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { VOICES, type Voice } from '@tin-harbor/core/creative'
import { ApiError, api } from '@/api'
import FitProgress from './FitProgress.vue'
import { isUnderWay, useFits } from './use-fits'
import { useRecording } from './use-recording'

/** Makes a spot: spoken by the studio from a script, or recorded here. */
export interface SoundFormProps {
  advertiser: number
}
const props = defineProps<SoundFormProps>()
const emit = defineEmits<{ close: []; made: [file: number]; recorded: [file: File] }>()

const wanted = reactive({ name: '', script: '', voice: 'English' as Voice, seconds: 20, bed: true })
const errors = ref<Readonly<Record<string, string>>>({})
/** What is made of no file is followed under this number. */
const SPOT = 0
const { runs, follow, stop } = useFits((_, [file]) => emit('made', file))
const run = computed(() => runs.value.get(SPOT))

async function onSpeak() {
  errors.value = {}
  runs.value.delete(SPOT)
  try {
    const job = await api.speak(props.advertiser, { ...wanted, seconds: Number(wanted.seconds) })
    await follow(SPOT, Promise.resolve(job))
  } catch (failure) {
    if (!(failure instanceof ApiError)) throw failure
    errors.value = Object.fromEntries(failure.issues.map(({ field, message }) => [field, message]))
  }
}
const { isRecording, seconds, error: recordError, record, finish } = useRecording((file) => emit('recorded', file))
</script>

<template>
  <aside class="FileNote SoundForm" aria-label="A spot">
    <header>
      <h2>A spot</h2>
      <button class="plain" type="button" aria-label="Close" @click="$emit('close')">✕</button>
    </header>
    <section>
      <h3>Recorded here</h3>
      <p class="small quiet">It is kept as it was heard, and can be cut and levelled then.</p>
      <p>
        <ElButton size="small" data-test="record" @click="isRecording ? finish() : record()">
          {{ isRecording ? `Stop at ${seconds} s` : 'Record' }}
        </ElButton>
      </p>
      <p v-if="recordError" class="trouble small" role="alert">{{ recordError }}</p>
    </section>
    <form @submit.prevent="onSpeak">
      <h3>Spoken by the studio</h3>
      <label>Name <ElInput v-model="wanted.name" size="small" maxlength="150" data-test="spoken-name" /></label>
      <p v-if="errors.name" class="trouble small" role="alert">{{ errors.name }}</p>
      <label>What is said <ElInput v-model="wanted.script" type="textarea" :rows="5" maxlength="1500" data-test="spoken-script" /></label>
      <p v-if="errors.script" class="trouble small" role="alert">{{ errors.script }}</p>
      <label
        >In
        <select v-model="wanted.voice">
          <option v-for="(_, voice) in VOICES" :key="voice" :value="voice">{{ voice }}</option>
        </select></label
      >
      <label>Seconds <ElInput v-model="wanted.seconds" type="number" size="small" min="5" max="60" data-test="spoken-seconds" /></label>
      <p v-if="errors.seconds" class="trouble small" role="alert">{{ errors.seconds }}</p>
      <label class="SoundForm-bed"><input v-model="wanted.bed" type="checkbox" /> with music under it</label>
      <p class="FileNote-buttons">
        <ElButton size="small" native-type="submit" :disabled="isUnderWay(run)" data-test="speak">Have it read</ElButton>
      </p>
      <FitProgress v-if="run" :run="run" @stop="stop(SPOT)" />
    </form>
  </aside>
</template>

<style>
.FileNote .SoundForm-bed {
  display: flex;
  gap: 6px;
}
</style>
