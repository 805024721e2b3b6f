<script setup lang="ts">
import type { DealsView } from '@tin-harbor/core/contract'
import { count, cpm, marketTime } from '@/composables/formats'

/** What was asked for, and what offices answered; another offer can be taken. */
export interface DealAsksProps {
  asks: DealsView['asks']
  mayTake: boolean
}
defineProps<DealAsksProps>()
defineEmits<{ take: [ask: number] }>()
const STATES = { asked: 'waits for an answer', granted: 'granted', countered: 'offers another', refused: 'refused' } as const
</script>

<template>
  <div class="DealAsks">
    <h2 class="ruled">Asked for</h2>
    <p v-if="asks.length === 0" class="quiet">Nothing yet.</p>
    <ul data-test="asks">
      <li v-for="ask in asks" :key="ask.id" :class="`is-${ask.state}`">
        <b>{{ ask.publisher }}</b>, {{ ask.format }}, {{ ask.kind === 'fixed' ? 'fixed' : 'floor' }} {{ cpm(ask.priceMicros) }} for
        {{ count(ask.volume) }} a day, {{ ask.about }}; asked {{ marketTime(ask.askedHour) }}. <em>{{ STATES[ask.state] }}</em><template
          v-if="ask.answer"
          >, by the rule on {{ ask.rule }}: “{{ ask.answer }}”</template
        >
        <template v-if="ask.state === 'countered' && ask.offered && mayTake">
          <button class="plain" type="button" data-test="take" @click="$emit('take', ask.id)">
            take {{ cpm(ask.offered.priceMicros) }} for {{ count(ask.offered.volume) }} a day
          </button></template
        >
        <template v-if="ask.dealId"> It is deal {{ ask.dealId }}.</template>
      </li>
    </ul>
  </div>
</template>

<style>
.DealAsks ul {
  margin: 0;
  padding: 0;
  font: 13.5px/1.55 var(--serif);
  list-style: none;
}

.DealAsks li {
  padding: 6px 0;
  border-bottom: 1px solid var(--rule-2);
}

.DealAsks button {
  margin-left: 6px;
}

.DealAsks em {
  font-style: normal;
  font-weight: 600;
}

.DealAsks .is-granted em {
  color: var(--lamp);
}

.DealAsks .is-refused em {
  color: var(--hull);
}

.DealAsks .is-countered em {
  color: var(--brass-text);
}
</style>
