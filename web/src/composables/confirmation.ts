/** Names one confirmation: a second click or a repeated request under it does nothing more. */
export const newConfirmation = (what: string) => `${what}-${crypto.getRandomValues(new Uint32Array(3)).join('-')}`
