import type { MarketState } from '../exchange/market-model.js'
import { conflict } from '../http/errors.js'
import type { Line } from '../lines/line-model.js'
import type { Actor } from '../security/sessions.js'
import type { Put } from './publications.js'

/** The market buys for whoever first brought a line into force. @throws for people of another organisation */
export function claimMarket(state: MarketState, actor: Actor): void {
  if (state.organisationId !== null && state.organisationId !== actor.organisationId)
    throw conflict('The market buys for another organisation already: your lines can be drafted and forecast here, not put live.')
  state.organisationId = actor.organisationId
}

/** What a publication puts into force of a line, whose first hour is noted; null where its state keeps it out. */
export function putOf(line: Line, hour: number): Put | null {
  if (line.revisionId === null || !(line.state === 'live' || (line.state === 'cleared' && line.released))) return null
  line.liveFromHour ??= hour
  return { revisionId: line.revisionId, liveFromHour: line.liveFromHour }
}
