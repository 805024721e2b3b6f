<script setup lang="ts">
import { ref } from 'vue'
import { ElButton } from 'element-plus'
import { LIST_KINDS, type ListKind } from '@tin-harbor/core/buying'
import { api } from '@/api'
import { count } from '@/composables/formats'
import { useSession } from '@/stores/session'
import type { Lists } from './use-lists'

/** All lists, and a new one. */
export interface ListIndexProps {
  all: Lists
}
const props = defineProps<ListIndexProps>()
const { lists, list, show, attempt } = props.all
const session = useSession()
const name = ref('')
const kind = ref<ListKind>('properties')
const onCreate = () =>
  attempt(async () => {
    const { id } = await api.createList(null, { name: name.value, kind: kind.value, values: [], group: null })
    name.value = ''
    await show(id)
  })
</script>

<template>
  <aside class="ListIndex">
    <ul>
      <li v-for="one in lists" :key="one.id">
        <button class="plain" type="button" :class="{ 'is-here': one.id === list?.id }" @click="show(one.id)">{{ one.name }}</button>{{ ' '
        }}<span class="quiet small"
          >{{ one.kind === 'group' ? 'a group of restrictions' : `${count(one.values.length)} ${one.kind}`
          }}{{ one.usedBy.length > 0 ? `, followed by ${one.usedBy.length}` : '' }}</span
        >
      </li>
    </ul>
    <p v-if="lists.length === 0" class="quiet">No list yet.</p>
    <form v-if="session.may('draft')" @submit.prevent="onCreate">
      <label>New list <input v-model="name" maxlength="120" data-test="new-name" aria-label="Name of the new list" /></label>
      <label
        >of
        <select v-model="kind" data-test="new-kind">
          <option v-for="one in Object.keys(LIST_KINDS)" :key="one" :value="one">{{ one }}</option>
        </select></label
      >
      <ElButton size="small" native-type="submit" data-test="create">Make it</ElButton>
    </form>
  </aside>
</template>

<style>
.ListIndex ul {
  margin: 0 0 14px;
  padding: 0;
  list-style: none;
}

.ListIndex li {
  padding: 4px 0;
  border-bottom: 1px solid var(--rule-2);
}

.ListIndex .is-here {
  font-weight: 600;
}

.ListIndex form {
  display: grid;
  gap: 6px;
  font-size: 12.5px;
}
</style>
