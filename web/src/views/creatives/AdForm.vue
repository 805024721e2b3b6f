<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { TEXTS, filesNamed, letters, partProblem, type CreativeDraft } from '@tin-harbor/core/creative'
import { DISPLAY_SIZES } from '@tin-harbor/core/taxonomy'
import type { FileView, MadeChoice } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import TagRun from './TagRun.vue'

/** Writes an ad of parts: texts as long as its slot shows them, and files of the library that the slot takes. */
export interface AdFormProps {
  advertiser: number
  files: readonly FileView[]
}
const props = defineProps<AdFormProps>()
defineEmits<{ close: [] }>()

const KINDS = {
  native: 'a native ad',
  notification: 'a notification',
  interstitial: 'an interstitial',
  markup: 'a tag of somebody else’s'
} as const
type Kind = keyof typeof KINDS
const FILES: Readonly<Record<Kind, Readonly<Record<string, string>>>> = {
  native: { icon: 'Icon', picture: 'Picture' },
  notification: { icon: 'Icon', picture: 'Picture, if any' },
  interstitial: { file: 'Picture' },
  markup: {}
}

const kind = ref<Kind>('native')
const name = ref('')
const parts = reactive<Record<string, string>>({})
const isUpright = ref(true)
const errors = ref<Readonly<Record<string, string>>>({})
const made = ref<MadeChoice | null>(null)
const size = ref('')
const isBusy = ref(false)
watch(kind, () => {
  errors.value = {}
  made.value = null
})

const texts = computed(() =>
  Object.entries<{ what: string; most: number }>(kind.value in TEXTS ? TEXTS[kind.value as keyof typeof TEXTS] : {})
)
const draft = computed<CreativeDraft>(() => {
  const files = Object.fromEntries(Object.keys(FILES[kind.value]).map((part) => [part, parts[part] || null]))
  const said = Object.fromEntries(texts.value.map(([part]) => [part, parts[part] ?? '']))
  const own =
    kind.value === 'markup'
      ? { size: size.value, markup: parts.markup ?? '' }
      : kind.value === 'interstitial'
        ? { upright: isUpright.value }
        : {}
  return { name: name.value, kind: kind.value, parts: { ...said, ...files, ...own } }
})
/** Files that the slot takes as a part. */
const takenAs = (part: string) =>
  props.files.filter((file) => {
    if (file.retired || file.medium !== 'picture') return false
    return partProblem({ kind: kind.value, parts: draft.value.parts }, part, file.facts) === null
  })

async function onMake() {
  isBusy.value = true
  errors.value = {}
  try {
    made.value = await api.makeCreative(props.advertiser, draft.value)
  } catch (failure) {
    if (!(failure instanceof ApiError)) throw failure
    const found = failure.issues.map(({ field, message }) => [field.replace(/^parts\./, ''), message])
    errors.value = found.length > 0 ? (Object.fromEntries(found) as Record<string, string>) : { '': failure.message }
  } finally {
    isBusy.value = false
  }
}
/** What the form has a place for beside its field. */
const others = computed(() => {
  const shown = ['name', 'size', 'markup', ...texts.value.map(([part]) => part), ...Object.keys(FILES[kind.value])]
  return Object.entries(errors.value)
    .filter(([field]) => !shown.includes(field))
    .map(([, message]) => message)
})
/** Files that were chosen. */
const chosen = computed(() => props.files.filter(({ sha256 }) => filesNamed(draft.value).some((one) => one.sha256 === sha256)))
</script>

<template>
  <aside class="FileNote AdForm" aria-label="An ad of parts">
    <header>
      <h2>An ad of parts</h2>
      <button class="plain" type="button" aria-label="Close" @click="$emit('close')">✕</button>
    </header>
    <form @submit.prevent="onMake">
      <label
        >It is
        <select v-model="kind" data-test="ad-kind">
          <option v-for="(words, one) in KINDS" :key="one" :value="one">{{ words }}</option>
        </select></label
      >
      <label>Name <ElInput v-model="name" size="small" maxlength="190" data-test="ad-name" /></label>
      <p v-if="errors.name" class="trouble small" role="alert">{{ errors.name }}</p>
      <template v-for="[part, { what, most }] in texts" :key="part">
        <label
          ><span
            >{{ what }}
            <span :class="letters(parts[part] ?? '') > most ? 'trouble' : 'quiet'"
              >{{ letters(parts[part] ?? '') }} of {{ most }}</span
            ></span
          >
          <ElInput v-model="parts[part]" size="small" :data-test="`ad-${part}`" />
        </label>
        <p v-if="errors[part]" class="trouble small" role="alert">{{ errors[part] }}</p>
      </template>
      <label v-if="kind === 'interstitial'"
        >It stands
        <select v-model="isUpright">
          <option :value="true">upright, 320x480</option>
          <option :value="false">wide, 480x320</option>
        </select></label
      >
      <template v-if="kind === 'markup'">
        <label
          >Size
          <select v-model="size" data-test="ad-size">
            <option value="" disabled>choose</option>
            <option v-for="one in DISPLAY_SIZES" :key="one" :value="one">{{ one }}</option>
          </select></label
        >
        <p v-if="errors.size" class="trouble small" role="alert">{{ errors.size }}</p>
        <label>Its markup <ElInput v-model="parts.markup" type="textarea" :rows="6" data-test="ad-markup" /></label>
        <p v-if="errors.markup" class="trouble small" role="alert">{{ errors.markup }}</p>
      </template>
      <template v-for="(words, part) in FILES[kind]" :key="part">
        <label
          >{{ words }}
          <select :value="parts[part] ?? ''" :data-test="`ad-${part}`" @change="parts[part] = ($event.target as HTMLSelectElement).value">
            <option value="">{{ takenAs(part).length > 0 ? 'none' : 'no file of the library fits; one can be cut for it' }}</option>
            <option v-for="file in takenAs(part)" :key="file.id" :value="`sha256:${file.sha256}`">{{ file.name }}</option>
          </select></label
        >
        <p v-if="errors[part]" class="trouble small" role="alert">{{ errors[part] }}</p>
      </template>
      <p v-if="chosen.length > 0" class="AdForm-files">
        <img v-for="file in chosen" :key="file.id" :src="api.fileUrl(file.id)" :alt="file.name" />
      </p>
      <p v-for="message in others" :key="message" class="trouble small" role="alert">{{ message }}</p>
      <p class="FileNote-buttons">
        <ElButton size="small" native-type="submit" :loading="isBusy" data-test="make-ad">Make it</ElButton>
      </p>
    </form>
    <template v-if="made">
      <p role="status" data-test="ad-made">
        “{{ made.name }}” is made; it can be put on lines whose slots take it: {{ made.shapes.join(', ') }}.
      </p>
      <TagRun v-if="made.kind === 'markup'" :key="made.id" :creative="made.id" :size="made.shapes[0]" />
    </template>
  </aside>
</template>

<style>
.AdForm-files {
  display: flex;
  gap: 8px;
}

.AdForm-files img {
  max-width: 160px;
  max-height: 84px;
}
</style>
