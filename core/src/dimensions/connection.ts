import { CONNECTIONS } from '../taxonomy/index.js'
import {
  BLOCKS,
  CARRIERS,
  CELLULAR,
  PROVIDERS,
  carrierBlock,
  carrierOf,
  connectionOf,
  isBlocked,
  isBot,
  isProxy,
  providerBlock,
  providerOf,
  rangeBlocks
} from '../market/index.js'
import { asCalled, attribute, labelIn, listed, within, type Restricting, type Telling } from './dimension.js'

const never = () => false
const namesOf = (networks: readonly { name: string }[]) => networks.map((network) => network.name)
const onCellular = (state: number) => connectionOf(state) === CELLULAR
/** Whether something is so of an opportunity's state. */
const ofState = (has: (state: number) => boolean, labels: readonly string[] = ['no', 'yes']): Telling => ({
  key: ({ state }) => (has(state) ? 1 : 0),
  label: labelIn(labels)
})

export const CONNECTION = {
  connection: attribute({
    title: 'Wi-Fi, cellular or wired',
    lane: 'state',
    numberOf: connectionOf,
    values: CONNECTIONS,
    noun: 'connection',
    inFull: ['connected by', 'not connected by'],
    said: ['over', 'not over'],
    called: [...asCalled(CONNECTIONS), ['wifi', 'Wi-Fi'], ['mobile data', 'cellular']]
  }),
  carrier: {
    restricts: {
      ...listed('carrier', namesOf(CARRIERS)),
      tests: ({ values }) => {
        const has = new Set(values)
        return { cell: (i) => has.has(CARRIERS[Math.floor(i / BLOCKS)].name), fixed: never }
      },
      inFull: ['with the carrier', 'not with the carrier'],
      said: ['over', 'not over'],
      called: asCalled(namesOf(CARRIERS)),
      chooser: { value: (_, key) => CARRIERS[key]?.name ?? null }
    } satisfies Restricting,
    tells: {
      key: ({ state, word2 }) => (onCellular(state) ? carrierOf(word2) : -1),
      label: labelIn(namesOf(CARRIERS), 'not by a carrier')
    } satisfies Telling
  },
  provider: {
    restricts: {
      ...listed('provider', namesOf(PROVIDERS)),
      tests: ({ values }) => {
        const has = new Set(values)
        return { fixed: (i) => has.has(PROVIDERS[Math.floor(i / BLOCKS)].name), cell: never }
      },
      inFull: ['with the provider', 'not with the provider'],
      said: ['over', 'not over'],
      called: asCalled(namesOf(PROVIDERS)),
      chooser: { value: (_, key) => PROVIDERS[key]?.name ?? null }
    } satisfies Restricting,
    tells: {
      key: ({ state, word2 }) => (onCellular(state) ? -1 : providerOf(word2)),
      label: labelIn(namesOf(PROVIDERS), 'not by a provider')
    } satisfies Telling
  },
  'address range': {
    restricts: {
      noun: 'address range of at most 22 bits',
      isKnown: (value) => rangeBlocks(value) !== null,
      tests: ({ values }) => {
        const ranges = values.map(rangeBlocks)
        const inRange = (block: number) => ranges.some((range) => range !== null && block >= range.from && block < range.to)
        return { cell: (i) => inRange(carrierBlock(0) + i), fixed: (i) => inRange(providerBlock(0) + i) }
      },
      inFull: ['from the addresses', 'not from the addresses']
    } satisfies Restricting
  },
  unwanted: {
    restricts: {
      title: 'robots and proxies',
      ...listed('kind of traffic', ['proxies', 'bots', 'pop-up blockers']),
      mode: 'exclude',
      tests: ({ values }) => {
        const has = new Set(values)
        const [bots, proxies, blockers] = ['bots', 'proxies', 'pop-up blockers'].map((kind) => has.has(kind))
        return { state: (i) => (bots && isBot(i)) || (proxies && isProxy(i)) || (blockers && isBlocked(i)) }
      },
      inFull: ['with', 'without'],
      said: ['with', 'without', 'and'],
      called: [
        ['robots', 'bots'],
        ['bots', 'bots'],
        ['proxies', 'proxies'],
        ['pop-up blockers', 'pop-up blockers']
      ]
    } satisfies Restricting
  },
  'since pop': {
    restricts: {
      title: 'time since a pop',
      noun: 'number of minutes from 1 to 1,440',
      isKnown: within(1, 1440),
      mode: 'include',
      formats: ['pop'],
      // Minutes are no lane: the look-up tables hold them beside the lanes.
      tests: () => ({}),
      inFull: ['to people without a pop for', 'to people with a pop in'],
      said: ['to people who had', 'to people who had not'],
      words: (value) => `no pop for ${value} minutes`,
      unit: ' minutes',
      number: { hint: '', like: '' }
    } satisfies Restricting
  },
  robots: { tells: ofState(isBot, ['people', 'robots']) },
  proxies: { tells: ofState(isProxy) },
  'blocked pops': { tells: ofState(isBlocked) }
}
