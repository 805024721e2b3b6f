<script setup lang="ts">
import { nextTick, onMounted, ref, shallowRef, useTemplateRef } from 'vue'
import type { ListKind } from '@tin-harbor/core/buying'
import type { ListView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'

/** Puts values on a list that is there, or on a new one. */
export interface PutOnListProps {
  kind: ListKind
  values: readonly string[]
}
const props = defineProps<PutOnListProps>()
const emit = defineEmits<{ put: [list: ListView] }>()

const lists = shallowRef<ListView[]>([])
const name = ref<string | null>(null)
const said = ref<string | null>(null)
const field = useTemplateRef('field')
const { isBusy, error, attempt } = useAttempt()
const load = async () => {
  lists.value = (await api.lists()).lists.filter((one) => one.kind === props.kind)
}
onMounted(() => attempt(load))

async function onList(choice: string) {
  said.value = null
  if (choice === 'new') {
    name.value = ''
    await nextTick()
    field.value?.focus()
    return
  }
  const list = lists.value.find((one) => one.id === Number(choice))
  if (!list) return
  await attempt(async () => {
    const saved = await api.saveList({ id: list.id, version: list.version, rename: null, add: [...props.values], remove: [] })
    said.value = `“${saved.name}” holds ${saved.values.length} now.`
    lists.value = lists.value.map((one) => (one.id === saved.id ? saved : one))
    emit('put', saved)
  })
}
const onMake = () =>
  attempt(async () => {
    const made = await api.createList(null, { name: name.value ?? '', kind: props.kind, values: [...props.values], group: null })
    said.value = `“${made.name}” is made, with ${made.values.length}.`
    name.value = null
    lists.value = [...lists.value, made]
    emit('put', made)
  })
</script>

<template>
  <span class="PutOnList">
    <form v-if="name !== null" @submit.prevent="onMake">
      <label
        >new list called <input ref="field" v-model="name" maxlength="120" data-test="list-name" @keydown.esc.stop="name = null"
      /></label>
      <button class="plain" type="submit" :disabled="isBusy || name.trim() === ''" data-test="make-list">Make it</button>
      <button class="plain" type="button" @click="name = null">Leave it</button>
    </form>
    <label v-else
      >put on
      <select
        data-test="put-on"
        aria-label="List to put them on"
        :disabled="isBusy"
        @change="
          (event) => {
            void onList((event.target as HTMLSelectElement).value)
            ;(event.target as HTMLSelectElement).value = ''
          }
        ">
        <option value="">a list</option>
        <option value="new">a new list …</option>
        <option v-for="one in lists" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select></label
    >
    <span v-if="said" role="status">{{ said }}</span>
    <span v-if="error" class="trouble" role="alert">{{ error }}</span>
  </span>
</template>

<style>
.PutOnList form {
  display: inline-flex;
  gap: 10px;
  align-items: baseline;
}
</style>
