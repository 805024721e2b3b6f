<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { TeamView as Team } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { realTime } from '@/composables/formats'
import { useAttempt } from '@/composables/use-attempt'
import StateNote from '@/parts/StateNote.vue'
import InviteForm from './InviteForm.vue'
import PersonEntry from './PersonEntry.vue'
import TrailList from './TrailList.vue'
import { rightsWords } from './rights-words'
import './team.css'

/** People with their rights as sentences, who is asked in, and what everybody did. */
const team = shallowRef<Team | null>(null)
const error = ref<string | null>(null)
const { attempt, error: revokeError } = useAttempt()
async function load() {
  try {
    team.value = await api.team()
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
onMounted(load)
const names = computed(() => new Map(team.value?.advertisers.map(({ id, name }) => [id, name]) ?? []))
const onRevoke = (id: number) => attempt(async () => (team.value = await api.revokeInvitation(id)))
</script>

<template>
  <div class="TeamView page">
    <h1>Team</h1>
    <StateNote v-if="error || !team" :error="error" reads="Reading who is here" @retry="load" />
    <div v-else class="TeamView-parts">
      <section aria-labelledby="people-head">
        <h2 id="people-head">People</h2>
        <ul>
          <PersonEntry
            v-for="person in team.people"
            :key="`${person.id} ${person.version}`"
            :person="person"
            :advertisers="team.advertisers"
            @saved="(saved) => (team = saved)"
            @stale="load" />
        </ul>
      </section>
      <section aria-labelledby="invite-head">
        <h2 id="invite-head">Ask somebody in</h2>
        <InviteForm :team="team" @invited="load" />
        <template v-if="team.invitations.length > 0">
          <h2>Asked in</h2>
          <ul>
            <li v-for="one in team.invitations" :key="one.id" class="PersonEntry" data-test="invitation">
              <b>{{ one.email }}</b>: {{ rightsWords(one, names) }}.
              <p class="small">
                <span class="quiet">by {{ one.madeBy }}, good until {{ realTime(one.expiresAt) }}</span>
                <button class="plain" type="button" :aria-label="`Take back the invitation of ${one.email}`" @click="onRevoke(one.id)">
                  take it back
                </button>
              </p>
            </li>
          </ul>
          <p v-if="revokeError" class="trouble" role="alert">{{ revokeError }}</p>
        </template>
      </section>
      <TrailList class="TeamView-trail" :advertisers="team.advertisers" />
    </div>
  </div>
</template>
