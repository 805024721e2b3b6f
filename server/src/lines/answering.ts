import type { Sequelize } from 'sequelize'
import type { LineView } from '@tin-harbor/core/contract'
import { readMarket } from '../going-live/publications.js'
import type { Call } from '../http/registry.js'
import { lineView } from './lines.js'

/** A line as it is now. */
export const viewLine = async (sequelize: Sequelize, id: number): Promise<LineView> => lineView(sequelize, id, (await readMarket()).hour)

/** Does what is asked of a line, and answers with the line as it is then. */
export const thenLine =
  (sequelize: Sequelize) =>
  <B, Q>(work: (call: Call<B, Q>) => Promise<unknown>) =>
  async (call: Call<B, Q>): Promise<LineView> => {
    await work(call)
    return viewLine(sequelize, call.params.lineId)
  }
