/** What an address answered. */
export interface Answered {
  status: number
  type: string
  body: Buffer
  location?: string
}
