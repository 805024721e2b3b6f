/**
 * Our script on an advertiser's pages, as one of its trackers' addresses answers it. It finds the click id in the address that somebody
 * landed on, whatever the parameter is called, keeps it on the site, and tells each page by its canonical address (RFC 6596), and what the
 * page calls:
 * `tinHarbor('purchase', { value: 249, currency: 'EUR', transaction: 'A-17' })`. What is called before it is there waits in
 * `tinHarbor.q`.
 * @param home where this server is
 */
export const siteScript = (home: string, key: string): string => `(function () {
  var key = ${JSON.stringify(key)}, home = ${JSON.stringify(home)}, store = 'tin-harbor ' + key
  var kept = {}
  try { kept = JSON.parse(localStorage.getItem(store) || '{}') } catch (none) { kept = {} }
  var now = Date.now(), form = /^[0-9a-z]{1,6}\\.[ipt][0-9a-z]+-[0-9a-z]+\\.[\\w-]{16}$/
  new URLSearchParams(location.search).forEach(function (value) { if (form.test(value)) { kept.click = value } })
  if (!kept.seen || now - kept.seen > 1800000) { kept.begun = now; kept.pages = 0 }
  kept.pages++
  kept.seen = now
  function keep() { try { localStorage.setItem(store, JSON.stringify(kept)) } catch (none) { return } }
  keep()
  var canonical = document.querySelector('link[rel=canonical]'), page = canonical && canonical.href || location.href
  function tell(called, more) {
    more = more || {}
    var said = new URLSearchParams({
      click: kept.click || '', called: called, page: page.slice(0, 1000), pages: String(kept.pages),
      seconds: String(Math.round((Date.now() - kept.begun) / 1000)), transaction: String(more.transaction || ''),
      value: more.value === undefined ? '' : String(more.value), currency: more.currency || ''
    })
    new Image().src = home + '/t/' + key + '?' + said
  }
  var before = window.tinHarbor && window.tinHarbor.q || [], others = window.tinHarbor && window.tinHarbor.all || []
  others.push(tell)
  window.tinHarbor = function (called, more) { others.forEach(function (one) { one(called, more) }) }
  window.tinHarbor.all = others
  window.tinHarbor.q = before
  tell('', {})
  before.forEach(function (call) { tell(call[0], call[1]) })
})()
`

/** What is pasted into pages, so that the script is there on each. */
export const scriptTag = (home: string, key: string) => `<script async src="${home}/t/${key}.js"></script>`
/** What is pasted into the page that is the event. */
export const imageTag = (home: string, key: string) =>
  `<img src="${home}/t/${key}.gif?click=CLICK&transaction=TRANSACTION&value=VALUE&currency=EUR" width="1" height="1" alt="">`
