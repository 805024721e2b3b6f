<script setup lang="ts">
import type { FixableFinding } from '@tin-harbor/core/buying'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { ElButton } from 'element-plus'
import { isAbout, longWording, paragraph, plainLine, readWording, type Clause, type LinePhrase } from '@tin-harbor/core/wording'
import { useLineEdit } from '@/composables/line-edit'
import LineField from './LineField.vue'
import RestrictionChooser from './RestrictionChooser.vue'
import FindingNote from './FindingNote.vue'
import { fieldName } from './field-names'

/** The line as one paragraph: every phrase edits where it stands; the long wording says all of it, and is read back. */
export interface LineWordingProps {
  findings: readonly FixableFinding[]
  /** The clause that is open: what it edits is edited there. */
  openClause: Clause | null
}
const props = defineProps<LineWordingProps>()
const emit = defineEmits<{ go: [clause: Clause, selector: string]; fix: [finding: FixableFinding] }>()
const { draft, disabled, problems, change } = useLineEdit()

const root = useTemplateRef('root')
const pieces = computed(() => paragraph(draft.value))
const keyOf = (phrase: LinePhrase) => (phrase.restriction ? `${phrase.restriction.dimension} ${phrase.restriction.mode}` : phrase.of)
const open = ref<string | null>(null)
const opened = computed(
  () => pieces.value.find((piece): piece is LinePhrase => typeof piece !== 'string' && keyOf(piece) === open.value) ?? null
)
const found = (phrase: LinePhrase) => props.findings.filter((finding) => isAbout(finding, phrase.fields))
const isWrong = (phrase: LinePhrase) => Object.keys(problems.value).some((field) => isAbout({ field }, phrase.fields))

/** Where the field of a phrase is in its clause. */
const SELECTORS: Readonly<Partial<Record<LinePhrase['of'], string>>> = {
  bid: '#line-bid',
  aim: '#line-aim',
  maximum: '#line-max',
  limits: '#line-daily',
  landing: '#line-landing',
  flight: '#line-start',
  gap: '#line-gap',
  repeat: '#line-repeat'
}
function onPhrase(phrase: LinePhrase) {
  if (phrase.clause === props.openClause)
    return emit(
      'go',
      phrase.clause,
      phrase.restriction ? `[data-dimension="${phrase.restriction.dimension}"]` : (SELECTORS[phrase.of] ?? 'input, button')
    )
  open.value = open.value === keyOf(phrase) ? null : keyOf(phrase)
}
function onClose() {
  const was = open.value
  open.value = null
  void nextTick(() => root.value?.querySelector<HTMLElement>(`[data-phrase="${was}"]`)?.focus())
}

/** The long wording while it is looked at or edited; null while it is not. */
const text = ref<string | null>(null)
const reading = computed(() => (text.value === null ? null : readWording(text.value)))
function onTake() {
  const read = reading.value?.draft
  if (!read) return
  change((d) => Object.assign(d, { hours: null, gapMinutes: null, rotation: 'weight', viewSeconds: null, buys: undefined }, read))
  text.value = null
}
</script>

<template>
  <div ref="root" class="LineWording">
    <p class="LineWording-text" data-test="wording">
      <template v-for="(piece, n) in pieces" :key="n"
        ><template v-if="typeof piece === 'string'">{{ piece }}</template
        ><span
          v-else
          class="LineWording-phrase"
          role="button"
          tabindex="0"
          :data-phrase="keyOf(piece)"
          :class="{
            'is-found': found(piece).length > 0,
            'is-stopped': isWrong(piece) || found(piece).some(({ severity }) => severity === 'stops'),
            'is-open': open === keyOf(piece) || openClause === piece.clause
          }"
          :title="
            found(piece)
              .map(({ message }) => message)
              .join(' ') || undefined
          "
          :aria-expanded="open === keyOf(piece)"
          @click="onPhrase(piece)"
          @keydown.enter.prevent="onPhrase(piece)"
          @keydown.space.prevent="onPhrase(piece)"
          >{{ piece.words }}</span
        ></template
      >
    </p>
    <div v-if="opened" class="LineWording-editor" role="dialog" :aria-label="opened.words" @keydown.esc.stop="onClose">
      <FindingNote
        v-for="finding in found(opened)"
        :key="finding.message"
        :finding="finding"
        :disabled="disabled"
        @fix="$emit('fix', finding)" />
      <RestrictionChooser
        v-if="opened.restriction"
        :key="open ?? ''"
        :dimension="opened.restriction.dimension"
        :mode="opened.restriction.mode"
        @close="onClose" />
      <template v-else><LineField :of="opened.of" /><button class="plain" type="button" @click="onClose">Done</button></template>
    </div>
    <p class="LineWording-ways">
      <button v-if="text === null" class="plain" type="button" data-test="long-wording" @click="text = longWording(plainLine(draft))">
        All of it in words
      </button>
      <slot />
    </p>
    <div v-if="text !== null" class="LineWording-long">
      <textarea v-model="text" rows="7" aria-label="The line in words, all of it" :readonly="disabled" data-test="long-text" />
      <template v-if="reading && !reading.draft">
        <p v-for="part in reading.unknown" :key="part" class="trouble small" role="alert">Not understood: {{ part }}</p>
        <p v-for="issue in reading.issues" :key="issue.field" class="trouble small" role="alert">
          {{ fieldName(issue.field) }}: {{ issue.message }}
        </p>
      </template>
      <p>
        <ElButton v-if="!disabled" size="small" :disabled="!reading?.draft" data-test="take-wording" @click="onTake"
          >Make the line say this</ElButton
        >{{ ' ' }}<button class="plain" type="button" @click="text = null">Close</button>
      </p>
    </div>
  </div>
</template>

<style>
.LineWording {
  margin: 8px 0 0;
  padding-bottom: 6px;
  border-bottom: 1px solid var(--ink);
}

.LineWording-text {
  font: 18.5px/1.55 var(--serif);
}

.LineWording-phrase {
  border-bottom: 1.5px solid var(--brass);
  font-weight: 550;
  cursor: pointer;
}

.LineWording-phrase.is-open {
  background: var(--brass-wash);
}

.LineWording-phrase.is-found {
  border-bottom: 2px dotted var(--brass);
  color: var(--brass-text);
}

.LineWording-phrase.is-stopped {
  border-bottom: 2px dotted var(--hull);
  color: var(--hull);
}

.LineWording-editor {
  margin: 6px 0;
  padding: 8px 12px;
  border: 1px solid var(--ink);
  background: var(--field);
}

.LineWording-ways {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  margin-top: 5px;
  font-size: 12px;
}

.LineWording-long textarea {
  width: 100%;
  margin-top: 6px;
  border: 1px solid var(--rule);
  background: var(--field);
  font: 14px/1.5 var(--serif);
}
</style>
