<script setup lang="ts">
import { ref } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { CALLED, parseInput, trackerSchema, type PageRule, type PageRuleKind, type TrackerDraft } from '@tin-harbor/core/buying'
import type { TrackerView } from '@tin-harbor/core/contract'
import { BRANCHES, EVENT_KINDS } from '@tin-harbor/core/taxonomy'
import { api } from '@/api'
import { useFormProblems } from '@/composables/use-form-problems'
import FieldRow from '@/parts/FieldRow.vue'
import MoneyField from '@/parts/MoneyField.vue'
import { PAGE_WORDS, REPORT_WORDS } from './tracker-words'

/** A tracker, new or changed. */
export interface TrackerFormProps {
  advertiser: number
  tracker?: TrackerView
}
const props = defineProps<TrackerFormProps>()
const emit = defineEmits<{ saved: [trackers: TrackerView[]]; leave: [] }>()

type Typed = Omit<TrackerDraft, 'pages' | 'kind'> & { kind: string; pages: PageRule }
const was = props.tracker
const typed = ref<Typed>({
  name: was?.name ?? '',
  kind: was?.kind ?? 'purchase',
  subject: was?.subject ?? null,
  reports: was?.reports ?? 'script',
  clickHours: was?.clickHours ?? 720,
  viewHours: was ? was.viewHours : 24,
  valueMicros: was?.valueMicros ?? null,
  pages: structuredClone(JSON.parse(JSON.stringify(was?.pages ?? CALLED)) as PageRule)
})
const { problem, isBusy, submit, onProblem } = useFormProblems()
const onPaths = (text: string) => (typed.value.pages.paths = text.split(/[\s,]+/).filter(Boolean))
const onWhich = (which: string) => (typed.value.pages.which = which as PageRuleKind)

const onSubmit = () =>
  submit(async () => {
    const { pages, ...rest } = typed.value
    const isScript = rest.reports === 'script'
    const draft = parseInput(trackerSchema, JSON.parse(JSON.stringify({ ...rest, pages: isScript ? pages : null })))
    emit('saved', was ? await api.saveTracker(was.id, was.version, draft) : await api.newTracker(props.advertiser, draft))
  }, 'tracker')
</script>

<template>
  <form class="SoldView-form TrackerForm" novalidate @submit.prevent="onSubmit">
    <FieldRow label="Name" for="tracker-name" :problem="problem('name')" hint="Payouts of offers name it, and pages call it by it."
      ><ElInput id="tracker-name" v-model="typed.name" maxlength="120"
    /></FieldRow>
    <FieldRow label="It counts" :problem="problem('kind')">
      a
      <select v-model="typed.kind" aria-label="Kind of event" data-test="tracker-kind">
        <option v-for="kind in EVENT_KINDS" :key="kind" :value="kind">{{ kind }}</option>
      </select>
      about
      <select v-model="typed.subject" aria-label="Subject">
        <option :value="null">anything</option>
        <option v-for="branch in BRANCHES" :key="branch.name" :value="branch.name">{{ branch.name }}</option>
      </select>
    </FieldRow>
    <FieldRow label="Told by" :problem="problem('reports')">
      <select v-model="typed.reports" aria-label="How it is told" data-test="tracker-reports">
        <option v-for="(words, name) in REPORT_WORDS" :key="name" :value="name">{{ words }}</option>
      </select>
    </FieldRow>
    <FieldRow
      v-if="typed.reports === 'script'"
      label="The event is"
      :problem="problem('pages.which') ?? problem('pages.paths') ?? problem('pages.paths[0]')">
      <select
        :value="typed.pages.which"
        aria-label="Which pages"
        data-test="tracker-pages"
        @change="onWhich(($event.target as HTMLSelectElement).value)">
        <option v-for="(words, name) in PAGE_WORDS" :key="name" :value="name">{{ words }}</option>
      </select>
      <input
        v-if="typed.pages.which === 'these'"
        :value="typed.pages.paths.join(' ')"
        aria-label="Paths of the pages"
        placeholder="/booked /guide/*"
        data-test="tracker-paths"
        @change="onPaths(($event.target as HTMLInputElement).value)" />
      <p class="small">
        from page
        <input v-model.number="typed.pages.leastPages" type="number" min="1" max="50" class="TrackerForm-few" aria-label="Least pages" />
        of a visit on, and
        <input
          v-model.number="typed.pages.leastSeconds"
          type="number"
          min="0"
          max="3600"
          class="TrackerForm-few"
          aria-label="Least seconds" />
        s into it
      </p>
      <p v-if="problem('pages.leastPages') ?? problem('pages.leastSeconds')" class="trouble small">
        {{ problem('pages.leastPages') ?? problem('pages.leastSeconds') }}
      </p>
    </FieldRow>
    <FieldRow label="A click counts" :problem="problem('clickHours')">
      for
      <input
        v-model.number="typed.clickHours"
        type="number"
        min="1"
        class="TrackerForm-few"
        aria-label="Hours that a click counts"
        data-test="click-hours" />
      hours
    </FieldRow>
    <FieldRow label="A view counts" :problem="problem('viewHours')">
      <label
        ><input
          type="checkbox"
          :checked="typed.viewHours !== null"
          @change="typed.viewHours = ($event.target as HTMLInputElement).checked ? 24 : null" />
        where nothing was clicked</label
      >
      <template v-if="typed.viewHours !== null"
        >, for
        <input v-model.number="typed.viewHours" type="number" min="1" class="TrackerForm-few" aria-label="Hours that a view counts" />
        hours</template
      >
    </FieldRow>
    <FieldRow label="Worth" :problem="problem('valueMicros')" hint="Where a value is told with it, that counts.">
      <MoneyField
        id="tracker-value"
        :model-value="typed.valueMicros ?? null"
        unit="each"
        label="Value"
        @problem="onProblem('valueMicros', $event)"
        @update:model-value="typed.valueMicros = $event" />
    </FieldRow>
    <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
    <p class="SoldView-acts">
      <ElButton type="primary" native-type="submit" :loading="isBusy" data-test="save-tracker">{{
        tracker ? 'Save' : 'Make the tracker'
      }}</ElButton>
      <button class="plain" type="button" @click="$emit('leave')">leave it</button>
    </p>
  </form>
</template>

<style>
.TrackerForm-few {
  width: 74px;
}
</style>
