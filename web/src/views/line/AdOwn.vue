<script setup lang="ts">
import { computed, ref } from 'vue'
import { AD_DIMENSIONS, phraseWords, termsOfAd, withTerms, type AdTerms } from '@tin-harbor/core/buying'
import type { AdView } from '@tin-harbor/core/contract'
import { dimensionTitle } from '@tin-harbor/core/dimensions'
import type { Sentence } from '@tin-harbor/core/forecast'
import type { Targeting } from '@tin-harbor/core/targeting'
import { MODEL_WORDS } from '@tin-harbor/core/taxonomy'
import { useLineEdit } from '@/composables/line-edit'
import { useTail } from '@/composables/use-tail'
import CapFields from '@/parts/CapFields.vue'
import FieldRow from '@/parts/FieldRow.vue'
import LandingsField from '@/parts/LandingsField.vue'
import LinkField from '@/parts/LinkField.vue'
import MoneyField from '@/parts/MoneyField.vue'
import PhraseChooser from '@/parts/PhraseChooser.vue'

/** What one ad has of its own, beside its line: whether it is shown, its bid, caps, who sees it, and where it lands. */
export interface AdOwnProps {
  ad: AdView
}
const props = defineProps<AdOwnProps>()
defineEmits<{ close: [] }>()
const { draft, disabled, problems, change, onProblem } = useLineEdit()
const tail = useTail()

const terms = computed(() => termsOfAd(draft.value, props.ad.id))
const set = (next: Partial<AdTerms>) => change((d) => (d.ads = withTerms(d.ads, props.ad.id, next)))
const field = (name: string) => {
  const place = draft.value.ads?.findIndex(({ ad }) => ad === props.ad.id) ?? -1
  const path = `ads[${place}].${name}`
  return Object.entries(problems.value).find(([key]) => key === path || key.startsWith(`${path}[`) || key.startsWith(`${path}.`))?.[1]
}
const bidProblem = `ads.${props.ad.id}.bidMicros`

/** A dimension that the ad is being narrowed by. */
const narrows = ref<(typeof AD_DIMENSIONS)[number] | null>(null)
const own = computed(() => terms.value.targeting?.restrictions ?? [])
/** The market is asked about what the line and the ad ask together; of the dimension itself the ad's own alone is edited. */
const sentence = computed((): Sentence => ({
  formats: [draft.value.format],
  targeting: {
    restrictions: [
      ...own.value,
      ...draft.value.targeting.restrictions.filter(
        ({ dimension }) => !own.value.some((one) => one.dimension === dimension) && dimension !== narrows.value
      )
    ]
  },
  hours: draft.value.hours ?? null
}))
function onNarrow({ restrictions }: Targeting) {
  const lines = new Set(draft.value.targeting.restrictions)
  set({ targeting: { restrictions: restrictions.filter((one) => !lines.has(one)) } })
}
const more = computed(() => AD_DIMENSIONS.filter((dimension) => !own.value.some((one) => one.dimension === dimension)))
</script>

<template>
  <section class="AdOwn" :aria-label="`What ${ad.name} has of its own`">
    <header>
      <b>{{ ad.name }}</b> <span class="quiet">{{ ad.size }}; what is left empty is as the line has it.</span> <slot />
      <button class="plain" type="button" @click="$emit('close')">Done</button>
    </header>
    <FieldRow label="Shown"
      ><label
        ><input
          type="checkbox"
          :checked="!terms.off"
          :disabled="disabled"
          data-test="ad-on"
          @change="set({ off: !($event.target as HTMLInputElement).checked })" />
        it is drawn among the others</label
      ></FieldRow
    >
    <FieldRow label="Own bid" for="ad-bid" :problem="problems[bidProblem] ?? field('bidMicros')">
      <MoneyField
        id="ad-bid"
        :model-value="terms.bidMicros ?? null"
        :unit="MODEL_WORDS[draft.price.model]"
        :disabled="disabled"
        @problem="onProblem(bidProblem, $event)"
        @update:model-value="(micros) => set({ bidMicros: micros })" />
    </FieldRow>
    <FieldRow label="Own caps" :problem="field('caps')" hint="An ad with caps of its own neither counts in the line’s nor obeys them.">
      <CapFields :caps="terms.caps ?? []" :disabled="disabled" @change="(caps) => set({ caps })" />
    </FieldRow>
    <FieldRow label="Shown only" :problem="field('targeting')">
      <p class="AdOwn-narrow">
        <template v-for="restriction in own" :key="restriction.dimension + restriction.mode">
          <button
            class="phrase"
            type="button"
            :aria-expanded="narrows === restriction.dimension"
            @click="narrows = narrows === restriction.dimension ? null : (restriction.dimension as (typeof AD_DIMENSIONS)[number])">
            {{ phraseWords(restriction) }}
          </button>
        </template>
        <template v-if="!disabled">
          <span class="quiet">{{ own.length === 0 ? 'all whom the line matches; narrow by' : 'and by' }}</span>
          <button
            v-for="dimension in more"
            :key="dimension"
            class="plain"
            type="button"
            :data-narrow="dimension"
            :aria-expanded="narrows === dimension"
            @click="narrows = narrows === dimension ? null : dimension">
            {{ dimensionTitle(dimension) }}
          </button>
        </template>
      </p>
      <PhraseChooser
        v-if="narrows && !disabled"
        :key="narrows"
        :sentence="sentence"
        :of="narrows"
        inline
        @change="({ targeting }) => onNarrow(targeting)"
        @close="narrows = null" />
    </FieldRow>
    <FieldRow label="Own link" for="ad-landing" :problem="field('landing')">
      <LinkField
        id="ad-landing"
        :link="terms.landing ?? ''"
        :tail="tail"
        :disabled="disabled"
        :placeholder="draft.landing || 'https://'"
        @change="(landing: string) => set({ landing })" />
      <LandingsField
        id="ad-landings"
        :landings="terms.landings ?? []"
        :disabled="disabled"
        :problem="(path) => field(`landings${path}`)"
        @change="(landings) => set({ landings })" />
    </FieldRow>
  </section>
</template>

<style>
.AdOwn {
  margin: 8px 0;
  padding: 8px 12px;
  border-left: 3px solid var(--brass);
  background: var(--field);
}

.AdOwn header {
  display: flex;
  gap: 10px;
  align-items: baseline;
}

.AdOwn header button:last-child {
  margin-left: auto;
}

.AdOwn-narrow {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
}
</style>
