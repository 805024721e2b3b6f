<script setup lang="ts">
import { computed } from 'vue'
import { ElInput } from 'element-plus'
import { FEED_ROLES, NEEDED_ROLES, TEXTS, partProblem, type FeedRole } from '@tin-harbor/core/creative'
import type { FeedEditing } from './use-feed'

/** How ads are made of a feed: what is what in it, what they say, which items they are of, and what becomes of those that change. */
export interface FeedTermsProps {
  editing: FeedEditing
  disabled: boolean
}
const props = defineProps<FeedTermsProps>()
const { view, feed, files, items, refused } = props.editing

const ROLE_WORDS: Readonly<Record<FeedRole, string>> = {
  key: 'Its key',
  title: 'Its title',
  text: 'What is said of it',
  link: 'Its page',
  picture: 'Its picture',
  price: 'Its price',
  stock: 'Its stock'
}
const TEXT_PARTS = ['headline', 'longHeadline', 'text', 'button', 'brand'] as const
const names = computed(() => view.value?.found?.names ?? [])
const icons = computed(() =>
  files.value.filter(
    (file) => !file.retired && file.medium === 'picture' && partProblem({ kind: 'native', parts: {} }, 'icon', file.facts) === null
  )
)
const first = computed(() => items.value[0] ?? null)
const saidOf = (part: string) => first.value?.said.find((one) => one.part === part)?.value ?? ''
const unknownWords = computed(() => (view.value?.unknown ?? []).map((name) => ['{', name, '}'].join('')).join(', '))
const price = (typed: string) => (typed.trim() === '' ? null : Number(typed))
</script>

<template>
  <form v-if="feed" class="FeedTerms" @submit.prevent="editing.read">
    <h2 class="ruled">Where it lies</h2>
    <label>Address <ElInput v-model="feed.address" size="small" :disabled="disabled" data-test="feed-address" /></label>
    <p v-if="refused.address" class="trouble small" role="alert">{{ refused.address }}</p>

    <h2 class="ruled">What is what in it</h2>
    <div class="FeedTerms-roles">
      <label v-for="role in FEED_ROLES" :key="role"
        >{{ ROLE_WORDS[role] }}
        <select v-model="feed.fields[role]" :disabled="disabled" :data-test="`feed-field-${role}`">
          <option value="">{{ NEEDED_ROLES.includes(role) ? 'choose' : 'it tells none' }}</option>
          <option v-for="name in names" :key="name" :value="name">{{ name }}</option>
          <option v-if="feed.fields[role] !== '' && !names.includes(feed.fields[role])" :value="feed.fields[role]">
            {{ feed.fields[role] }}, which it has not
          </option>
        </select></label
      >
    </div>

    <h2 class="ruled">What its ads say</h2>
    <p class="quiet small">
      A field in braces, as {title}, {price} or one of the feed’s own, stands for what the item says. Of
      {{ first ? `“${first.title}”` : 'an item' }} comes:
    </p>
    <template v-for="part in TEXT_PARTS" :key="part">
      <label
        >{{ TEXTS.native[part].what }} <ElInput v-model="feed.template[part]" size="small" :disabled="disabled" :data-test="`feed-${part}`"
      /></label>
      <p class="FeedTerms-comes small">{{ saidOf(part) }}</p>
      <p v-if="refused[`template.${part}`]" class="trouble small" role="alert">{{ refused[`template.${part}`] }}</p>
    </template>
    <label
      >The icon
      <select v-model="feed.template.icon" :disabled="disabled" data-test="feed-icon">
        <option value="">{{ icons.length > 0 ? 'choose' : 'no file of the library fits; one can be cut for it' }}</option>
        <option v-for="file in icons" :key="file.id" :value="`sha256:${file.sha256}`">{{ file.name }}</option>
      </select></label
    >
    <p v-if="refused['template.icon']" class="trouble small" role="alert">{{ refused['template.icon'] }}</p>
    <p v-if="view && view.unknown.length > 0" class="trouble small">No item has {{ unknownWords }}: nothing stands there.</p>

    <h2 class="ruled">Which items are wanted</h2>
    <p class="FeedTerms-which">
      <label>with the words <ElInput v-model="feed.which.words" size="small" :disabled="disabled" data-test="feed-words" /></label>
      <label
        >from
        <input
          type="number"
          min="0"
          :value="feed.which.least ?? ''"
          :disabled="disabled"
          aria-label="Least price"
          @change="feed.which.least = price(($event.target as HTMLInputElement).value)"
      /></label>
      <label
        >to
        <input
          type="number"
          min="0"
          :value="feed.which.most ?? ''"
          :disabled="disabled"
          aria-label="Highest price"
          @change="feed.which.most = price(($event.target as HTMLInputElement).value)"
      /></label>
    </p>
    <label
      >An ad whose item says something else by now
      <select v-model="feed.changed" :disabled="disabled" data-test="feed-changed">
        <option value="goes on">goes on as it is until it is made anew</option>
        <option value="stops">stops until it is made anew</option>
      </select></label
    >
    <p v-if="refused['']" class="trouble small" role="alert">{{ refused[''] }}</p>
  </form>
</template>

<style>
.FeedTerms label {
  display: grid;
  gap: 1px;
  margin: 5px 0 1px;
}

.FeedTerms select {
  width: 100%;
  min-width: 0;
}

.FeedTerms-roles {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 12px;
}

.FeedTerms-comes {
  min-height: 17px;
  overflow: hidden;
  color: var(--ink-2);
  font-family: var(--serif);
  text-overflow: ellipsis;
  white-space: nowrap;
}

.FeedTerms-which {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 84px 84px;
  gap: 10px;
}

.FeedTerms-which input[type='number'] {
  width: 100%;
}
</style>
