<script setup lang="ts">
import { computed, ref } from 'vue'
import { phraseWords } from '@tin-harbor/core/buying'
import { type Restriction } from '@tin-harbor/core/targeting'
import { DIMENSIONS_OF, isAbout } from '@tin-harbor/core/wording'
import { about } from '@/composables/formats'
import { DIMENSION_GROUPS, dimensionTitle, type Dimension } from '@tin-harbor/core/dimensions'
import { useLineEdit } from '@/composables/line-edit'
import RestrictionChooser from './RestrictionChooser.vue'

/** A clause that is made of restrictions: each in words, with what it leaves, and its chooser in place. */
export interface RestrictingClauseProps {
  clause: 'A' | 'B'
}
const props = defineProps<RestrictingClauseProps>()
const { draft, disabled, problems, sieve, change } = useLineEdit()

const open = ref<{ dimension: Dimension; mode: Restriction['mode'] | null } | null>(null)
const dimensions = computed(() => DIMENSIONS_OF[props.clause])
const rows = computed(() =>
  draft.value.targeting.restrictions.flatMap((restriction, place) => {
    if (!dimensions.value.includes(restriction.dimension)) return []
    const step = sieve.value?.steps.find(
      (one) =>
        typeof one.restriction !== 'string' &&
        one.restriction.dimension === restriction.dimension &&
        one.restriction.mode === restriction.mode
    )
    const problem = Object.entries(problems.value).find(([field]) => isAbout({ field }, [`targeting.restrictions[${place}]`]))?.[1]
    return [
      {
        restriction,
        place,
        left: step ? `${about(step.left)} left` : '',
        lifted: step && step.lifted > 0 ? `+${about(step.lifted)} if lifted` : '',
        problem
      }
    ]
  })
)
/** What can still be restricted by, in its groups. */
const more = computed(() => {
  const used = new Set(draft.value.targeting.restrictions.map((one) => one.dimension))
  return DIMENSION_GROUPS.map((group) => ({
    name: group.name,
    dimensions: group.dimensions.filter((dimension) => dimensions.value.includes(dimension) && !used.has(dimension))
  })).filter((group) => group.dimensions.length > 0)
})
const isOpen = ({ dimension, mode }: Restriction) =>
  open.value?.dimension === dimension && (open.value.mode === mode || open.value.mode === null)
const toggle = ({ dimension, mode }: Restriction) => (open.value = isOpen({ dimension, mode, values: [] }) ? null : { dimension, mode })
const lift = (place: number) => change((d) => (d.targeting = { restrictions: d.targeting.restrictions.filter((_, n) => n !== place) }))
/** The sieve goes in this order: one place up. */
const raise = (place: number) =>
  change((d) => {
    const all = [...d.targeting.restrictions]
    all.splice(place - 1, 2, all[place], all[place - 1])
    d.targeting = { restrictions: all }
  })
const added = computed(() => (open.value && !draft.value.targeting.restrictions.some((one) => isOpen(one)) ? open.value.dimension : null))
</script>

<template>
  <div class="RestrictingClause">
    <template v-for="{ restriction, place, left, lifted, problem } in rows" :key="restriction.dimension + restriction.mode">
      <p class="RestrictingClause-row">
        <button
          class="phrase"
          type="button"
          :aria-expanded="isOpen(restriction)"
          :data-dimension="restriction.dimension"
          @click="toggle(restriction)">
          {{ phraseWords(restriction) }}
        </button>
        <span class="quiet">{{ left }}</span><span class="quiet">{{ lifted }}</span>
        <button
          v-if="!disabled && place > 0"
          class="plain"
          type="button"
          :aria-label="`Sift by ${dimensionTitle(restriction.dimension)} one place earlier`"
          title="One place earlier in the sieve"
          @click="raise(place)">
          ↑
        </button>
        <button
          v-if="!disabled"
          class="plain"
          type="button"
          :aria-label="`Lift ${dimensionTitle(restriction.dimension)}`"
          @click="lift(place)">
          lift
        </button>
      </p>
      <p v-if="problem" class="trouble small" role="alert">{{ problem }}</p>
    </template>
    <RestrictionChooser
      v-if="open"
      :key="open.dimension + (open.mode ?? '')"
      :dimension="open.dimension"
      :mode="open.mode"
      @close="open = null" />
    <dl v-if="!disabled" class="RestrictingClause-more">
      <div v-for="group in more" :key="group.name">
        <dt>{{ group.name }}</dt>
        <dd>
          <button
            v-for="dimension in group.dimensions"
            :key="dimension"
            class="plain"
            type="button"
            :data-dimension="dimension"
            :aria-expanded="added === dimension"
            @click="open = added === dimension ? null : { dimension, mode: null }">
            {{ dimensionTitle(dimension) }}
          </button>
        </dd>
      </div>
    </dl>
  </div>
</template>

<style>
.RestrictingClause-row {
  display: grid;
  grid-template-columns: 1fr auto 108px 16px 28px;
  gap: 12px;
  align-items: baseline;
  padding: 3px 0;
  font-size: 12.5px;
}

.RestrictingClause-row > span {
  text-align: right;
}

.RestrictingClause-more {
  margin: 8px 0 0;
}

.RestrictingClause-more > div {
  display: flex;
  gap: 10px;
  padding: 2px 0;
}

.RestrictingClause-more dt {
  flex: 0 0 76px;
  color: var(--ink-2);
}

.RestrictingClause-more dd {
  display: flex;
  flex-wrap: wrap;
  gap: 1px 13px;
  margin: 0;
}
</style>
