import type { Sequelize } from 'sequelize'
import { LONGEST_CAP_MINUTES } from '@tin-harbor/core/exchange'
import type { WorldSize } from '@tin-harbor/core/market'
import { STREAM, hash } from '@tin-harbor/core/random'
import { readWins } from '../delivery/log.js'

export interface LineExposures {
  person: number[]
  /** Minutes of market time, ascending. */
  minute: number[]
}

const NONE: LineExposures = { person: [], minute: [] }

/**
 * What the people on the tape really saw of each line in the last 30 days, read from the delivery log hour by hour as
 * it grows: a forecast of a live line begins with them.
 */
export class TapeExposures {
  private next = -Infinity
  private readonly lines = new Map<number, LineExposures>()
  private reading: Promise<void> = Promise.resolve()

  constructor(
    private readonly sequelize: Sequelize,
    private readonly world: WorldSize
  ) {}

  /** Exposures of a line before an hour. */
  async of(line: number, hour: number): Promise<LineExposures> {
    this.reading = this.reading.catch(() => undefined).then(() => this.readUpTo(hour))
    await this.reading
    const found = this.lines.get(line)
    if (!found) return NONE
    const from = found.minute.findIndex((minute) => minute > hour * 60 - LONGEST_CAP_MINUTES)
    return from < 0 ? NONE : { person: found.person.slice(from), minute: found.minute.slice(from) }
  }

  private async readUpTo(hour: number): Promise<void> {
    const from = Math.max(this.next, hour - LONGEST_CAP_MINUTES / 60)
    if (from >= hour) return
    for await (const { hour: ran, log } of readWins(this.sequelize, from, hour))
      for (let i = 0; i < log.count; i++) {
        if (hash(this.world.seed, STREAM.sample, log.person[i]) % this.world.sample !== 0) continue
        let line = this.lines.get(log.line[i])
        if (!line) this.lines.set(log.line[i], (line = { person: [], minute: [] }))
        line.person.push(log.person[i])
        line.minute.push(ran * 60 + log.minute[i])
      }
    this.next = hour
  }
}
