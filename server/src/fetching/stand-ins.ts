import { readFileSync } from 'node:fs'

/** What an address answered. */
export interface Answered {
  status: number
  type: string
  body: Buffer
  location?: string
}

const demoFile = (name: string) => readFileSync(new URL(`../../demo-files/${name}`, import.meta.url))
const xml = (text: string): Answered => ({ status: 200, type: 'application/xml', body: Buffer.from(text) })
const TAGS = 'https://tagworks.example'

const wrapper = (to: string) =>
  `<?xml version="1.0"?><VAST version="4.2"><Ad id="wrapped"><Wrapper><AdSystem>Tagworks</AdSystem><VASTAdTagURI><![CDATA[${to}]]></VASTAdTagURI>` +
  `<Impression><![CDATA[${TAGS}/seen?at=[TIMESTAMP]]]></Impression><Error><![CDATA[${TAGS}/error?code=[ERRORCODE]]]></Error></Wrapper></Ad></VAST>`
const inline = `<?xml version="1.0"?><VAST version="4.2"><Ad id="winter-15"><InLine><AdSystem version="2">Tagworks</AdSystem><AdTitle>Winter sky</AdTitle>
<Impression><![CDATA[${TAGS}/shown]]></Impression><Error><![CDATA[${TAGS}/error?code=[ERRORCODE]]]></Error><Creatives><Creative id="1"><Linear skipoffset="00:00:05">
<Duration>00:00:15</Duration><TrackingEvents>${['start', 'firstQuartile', 'midpoint', 'thirdQuartile', 'complete', 'skip']
  .map((event) => `<Tracking event="${event}"><![CDATA[${TAGS}/event?name=${event}]]></Tracking>`)
  .join('')}</TrackingEvents>
<VideoClicks><ClickThrough><![CDATA[https://nightjar.example/winter]]></ClickThrough></VideoClicks><MediaFiles>
<MediaFile delivery="progressive" type="video/mp4" width="1280" height="720" bitrate="900"><![CDATA[${TAGS}/winter-15.mp4]]></MediaFile>
</MediaFiles></Linear></Creative></Creatives></InLine></Ad></VAST>`

/** What the demo's outside answers, by host and path; all of it is made up. One table for all that is fetched. */
const HOSTS: Readonly<Record<string, (url: URL) => Answered | null>> = {
  'tagworks.example': ({ pathname }) => {
    const deep = /^\/vast\/deep\/(\d)$/.exec(pathname)
    if (deep) return xml(wrapper(`${TAGS}/vast/deep/${Number(deep[1]) + 1}`))
    switch (pathname) {
      case '/vast/plain':
        return xml(inline)
      case '/vast/wrapped':
        return xml(wrapper(`${TAGS}/vast/plain`))
      case '/vast/loop':
        return xml(wrapper(`${TAGS}/vast/back`))
      case '/vast/back':
        return xml(wrapper(`${TAGS}/vast/loop`))
      case '/vast/empty':
        return xml('<VAST version="4.2"></VAST>')
      case '/inside':
        return { status: 302, type: '', body: Buffer.alloc(0), location: 'http://127.0.0.1/' }
      case '/winter-15.mp4':
        return { status: 200, type: 'video/mp4', body: demoFile('winter-15.mp4') }
      default:
        return null
    }
  }
}

/** The answer of the stand-in for a host; null for a host that none stands in for. */
export function standIn(url: URL): Answered | null {
  const host = HOSTS[url.hostname]
  if (host) return host(url) ?? { status: 404, type: 'text/plain', body: Buffer.from('Not here.') }
  // Nothing of a name that is kept for examples lies outside.
  return url.hostname.endsWith('.example') ? { status: 404, type: 'text/plain', body: Buffer.from('Nobody stands in for this.') } : null
}
