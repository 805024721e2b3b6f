/** The secret of a link: behind the `#`, which no server is told and no log holds. It leaves the address bar as it is read. */
export function secretInAddress(): string {
  const secret = window.location.hash.slice(1)
  if (secret !== '') window.history.replaceState(window.history.state, '', window.location.pathname)
  return secret
}
