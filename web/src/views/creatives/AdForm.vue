<script setup lang="ts">
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { filesNamed, partProblem, type CreativeDraft } from '@tin-harbor/core/creative'
import type { FileView, MadeChoice, PageRead } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { AD_KINDS, partsOf, type AdField, type AdKind } from './ad-kinds'
import AdPart from './AdPart.vue'
import TagRun from './TagRun.vue'

/** Writes an ad of parts: texts as long as its slot shows them, files of the library that the slot takes, a page that is looked at. */
export interface AdFormProps {
  advertiser: number
  files: readonly FileView[]
}
const props = defineProps<AdFormProps>()
defineEmits<{ close: [] }>()

const kind = ref<AdKind>('native')
const name = ref('')
const typed = reactive<Record<string, string>>({})
const errors = ref<Readonly<Record<string, string>>>({})
const made = ref<MadeChoice | null>(null)
/** What the page says that a pop ad leads to. */
const page = shallowRef<PageRead | null>(null)
const isBusy = ref(false)
const fields = computed((): readonly AdField[] => AD_KINDS[kind.value].fields)
watch(kind, () => {
  // A file that one kind takes is nothing to another; what was written may be.
  for (const { part, is } of fields.value) if (is === 'file' || is === 'size') typed[part] = ''
  errors.value = {}
  made.value = null
  page.value = null
})

const draft = computed<CreativeDraft>(() => ({ name: name.value, kind: kind.value, parts: partsOf(kind.value, typed, props.files) }))
/** Files that the slot takes as a part. */
const takenAs = ({ part, medium }: AdField) =>
  props.files.filter(
    (file) =>
      !file.retired && file.medium === medium && partProblem({ kind: kind.value, parts: draft.value.parts }, part, file.facts) === null
  )
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
/** Looks at a page as a visitor would find it: one that does not answer is told before anybody is sent there. */
async function onTyped({ is }: AdField) {
  const link = typed.link ?? ''
  page.value = null
  if (is !== 'link' || link.trim() === '') return
  const [read] = await api.readPages(link.trim()).catch(() => [])
  if (link === typed.link) page.value = read ?? null
}
/** Where the page is, if not where its link says. */
const pageElsewhere = computed(() => (page.value && page.value.address !== page.value.link ? `, at ${page.value.address}` : ''))
/** What the form has no place for beside a field. */
const others = computed(() => {
  const shown = ['name', ...fields.value.map(({ part }) => part)]
  return Object.entries(errors.value)
    .filter(([field]) => !shown.includes(field))
    .map(([, message]) => message)
})
/** Files that were chosen and can be seen. */
const chosen = computed(() =>
  props.files.filter(({ sha256, medium }) => medium === 'picture' && filesNamed(draft.value).some((one) => one.sha256 === sha256))
)
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
          <option v-for="({ words }, one) in AD_KINDS" :key="one" :value="one">{{ words }}</option>
        </select></label
      >
      <label>Name <ElInput v-model="name" size="small" maxlength="190" data-test="ad-name" /></label>
      <p v-if="errors.name" class="trouble small" role="alert">{{ errors.name }}</p>
      <template v-for="field in fields" :key="`${kind} ${field.part}`">
        <AdPart
          :field="field"
          :said="typed[field.part] ?? ''"
          :files="takenAs(field)"
          @write="typed[field.part] = $event"
          @done="onTyped(field)" />
        <p v-if="errors[field.part]" class="trouble small" role="alert">{{ errors[field.part] }}</p>
      </template>
      <p v-if="page" class="small" :class="{ trouble: page.problem !== null }" role="status" data-test="ad-page">
        <template v-if="page.problem !== null">Visitors would not come through: {{ page.problem }}</template>
        <template v-else>It answers: “{{ page.title }}”{{ pageElsewhere }}. {{ page.description }}</template>
      </p>
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
