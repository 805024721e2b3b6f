import type { Owner } from './rules.js'

/** What there is to spend when an hour begins. */
export interface HourMoney {
  /** Of the ledger. */
  balanceMicros: number
  /** What is left of the limits of advertisers that have one. */
  limits: readonly { advertiser: number; leftMicros: number }[]
}

/** What lines may still spend: none more than the balance, nor than what is left to its advertiser. */
export class Means {
  /** Place of each line's advertiser in `left`. */
  private readonly ownerOf: Int32Array
  private readonly placeOf = new Map<number, number>()
  /** Micros left by advertiser; Infinity without a limit. */
  private readonly left: Float64Array

  /**
   * @param lines in the places that they are asked by
   * @param owners of lines; one that is not among them has no advertiser whose limit it could reach
   */
  constructor(
    lines: readonly number[],
    owners: readonly Pick<Owner, 'line' | 'advertiser'>[],
    private balance: number
  ) {
    const advertiserOf = new Map(owners.map(({ line, advertiser }) => [line, advertiser]))
    this.ownerOf = Int32Array.from(lines, (line) => this.place(advertiserOf.get(line) ?? -1))
    this.left = new Float64Array(this.placeOf.size).fill(Infinity)
  }

  private place(advertiser: number): number {
    const known = this.placeOf.get(advertiser) ?? this.placeOf.size
    this.placeOf.set(advertiser, known)
    return known
  }

  begin({ balanceMicros, limits }: HourMoney): void {
    this.balance = balanceMicros
    this.left.fill(Infinity)
    for (const { advertiser, leftMicros } of limits) {
      const place = this.placeOf.get(advertiser)
      if (place !== undefined) this.left[place] = leftMicros
    }
  }

  /** What a line could pay, micros. */
  of(place: number): number {
    const left = this.left[this.ownerOf[place]]
    return left < this.balance ? left : this.balance
  }

  pay(place: number, micros: number): void {
    this.balance -= micros
    this.left[this.ownerOf[place]] -= micros
  }
}
