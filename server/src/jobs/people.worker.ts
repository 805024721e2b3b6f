import { parentPort, workerData } from 'node:worker_threads'
import { fillPeople, peopleOver } from '@tin-harbor/core/market'
import type { PeopleShare } from './messages.js'

/** Fills in its share of a world's people, and ends. */
const { size, people, from, to } = workerData as PeopleShare
fillPeople(size.seed, peopleOver(people, size.people), from, to)
parentPort?.postMessage('filled')
