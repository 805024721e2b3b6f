/** What an advertiser's lines can still spend: the balance, or less where the advertiser's limit of the month leaves less. */
export interface Left {
  micros: number
  by: 'balance' | 'limit'
}
