/** What the start has to tell while it works: a step and how far it is, 0 to 1. */
export type StartProgress = (step: string, share: number) => void
