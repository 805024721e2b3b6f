import { workerData } from 'node:worker_threads'
import { fillPeople, peopleOver } from '@tin-harbor/core/market'
import type { PeopleWork } from './messages.js'
import type { SharedPeople } from '../threads/shared-world.js'
import { serve } from '../threads/serve.js'

/** Fills in its share of a world's people. */
const { size, people } = workerData as SharedPeople

serve<PeopleWork>({ fill: ({ from, to }) => fillPeople(size.seed, peopleOver(people, size.people), from, to) }, {})
