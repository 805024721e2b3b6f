<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElButton } from 'element-plus'
import { memberSchema, parseInput } from '@tin-harbor/core/buying'
import type { PersonView, TeamView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { realTime } from '@/composables/formats'
import { useFormProblems } from '@/composables/use-form-problems'
import SeesFields from './SeesFields.vue'
import { rightsWords } from './rights-words'

/** Somebody of the team: what they may, as a sentence, and how it is changed. */
export interface PersonEntryProps {
  person: PersonView
  advertisers: TeamView['advertisers']
}
const props = defineProps<PersonEntryProps>()
const emit = defineEmits<{ saved: [team: TeamView]; stale: [] }>()
const isOpen = ref(false)
const typed = ref({ role: props.person.role, allAdvertisers: false, advertisers: [] as number[] })
const { problem, isBusy, submit } = useFormProblems()
const names = computed(() => new Map(props.advertisers.map(({ id, name }) => [id, name])))
const seenWords = computed(() => {
  const { seenAt, sessions, tokens } = props.person
  const is = seenAt === null ? 'not signed in' : `here last ${realTime(seenAt)}`
  const where = sessions > 1 ? `, in ${sessions} places` : ''
  return `${is}${where}${tokens > 0 ? `; ${tokens} ${tokens === 1 ? 'token' : 'tokens'}` : ''}`
})

function onOpen() {
  const { role, allAdvertisers, advertisers } = props.person
  typed.value = { role, allAdvertisers, advertisers: [...advertisers] }
  isOpen.value = !isOpen.value
}
const save = (active: boolean) =>
  submit(
    async () => {
      const { id, version } = props.person
      emit('saved', await api.saveMember(id, { version, ...parseInput(memberSchema, { ...typed.value, active }) }))
      isOpen.value = false
    },
    '',
    () => emit('stale')
  )
function onActive(active: boolean) {
  const { role, allAdvertisers, advertisers } = props.person
  typed.value = { role, allAdvertisers, advertisers: [...advertisers] }
  return save(active)
}
const onEnd = () => submit(async () => emit('saved', await api.endSessionsOf(props.person.id)))
</script>

<template>
  <li class="PersonEntry" :class="{ 'is-gone': !person.active }" data-test="person">
    <p>
      <b>{{ person.name }}</b>, <span class="quiet">{{ person.email }}</span>:
      <template v-if="person.active">{{ rightsWords(person, names) }}</template><template v-else>left, and may nothing</template>.
    </p>
    <p class="small">
      <span class="quiet">{{ seenWords }}</span>
      <button
        v-if="person.active"
        class="plain"
        type="button"
        :aria-label="`What ${person.name} may`"
        :aria-expanded="isOpen"
        data-test="change-person"
        @click="onOpen">
        {{ isOpen ? 'leave it' : 'change' }}
      </button>
      <button v-if="person.sessions > 0" class="plain" type="button" :aria-label="`Sign ${person.name} out`" @click="onEnd">
        sign out everywhere
      </button>
      <button
        class="plain"
        type="button"
        :aria-label="`${person.name} ${person.active ? 'left' : 'is back'}`"
        data-test="left"
        @click="onActive(!person.active)">
        {{ person.active ? 'has left' : 'is back' }}
      </button>
    </p>
    <form v-if="isOpen" novalidate @submit.prevent="save(true)">
      <SeesFields :id="`person-${person.id}`" v-model="typed" :advertisers="advertisers" :problem="problem" />
      <ElButton size="small" native-type="submit" :loading="isBusy" data-test="save-person">Save, from now on</ElButton>
    </form>
    <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
  </li>
</template>
