import { ref } from 'vue'
import { defineStore } from 'pinia'
import type { FundsView, PageEvent, RunStatus } from '@tin-harbor/core/contract'
import { api } from '@/api'

const STILL: RunStatus = { running: false, hour: 0, fromHour: 0, targetHour: 0, wins: 0, spendMicros: 0, trouble: null, playing: false }

/** Clock, balance and the run under way; kept current by the server's events. */
export const useMarket = defineStore('market', () => {
  const run = ref<RunStatus>(STILL)
  /** Whether the server has said where the market stands. */
  const isKnown = ref(false)
  /** How far the organisation's money goes; null before it is known. */
  const funds = ref<FundsView | null>(null)
  const tapeReady = ref(true)
  /** Share of the tape that is built while there is none. */
  const tapeShare = ref(1)
  const error = ref<string | null>(null)
  const databaseAway = ref(false)

  async function load(): Promise<void> {
    const market = await api.market()
    run.value = market.run
    isKnown.value = true
    funds.value = market.funds
    tapeReady.value = market.tape !== null
  }

  function onEvent(event: PageEvent): void {
    if (event.kind === 'tape') {
      tapeReady.value = event.ready
      tapeShare.value = event.share
      return
    }
    if (event.kind === 'database') {
      databaseAway.value = event.away
      return
    }
    if (event.kind === 'possible') return
    const { kind: _, funds: told, ...status } = event
    run.value = status
    isKnown.value = true
    funds.value = told
  }

  async function start(hours: number): Promise<void> {
    error.value = null
    try {
      await api.run(hours)
    } catch (failure) {
      error.value = (failure as Error).message
    }
  }

  /** Runs to a market hour; with seconds it is played, an hour each so many. */
  async function startTo(hour: number, secondsAnHour?: number): Promise<void> {
    error.value = null
    try {
      await api.runTo(hour, secondsAnHour)
    } catch (failure) {
      error.value = (failure as Error).message
    }
  }

  async function stop(): Promise<void> {
    await api.stopRun()
  }

  return { run, isKnown, funds, tapeReady, tapeShare, error, databaseAway, load, onEvent, start, startTo, stop }
})
