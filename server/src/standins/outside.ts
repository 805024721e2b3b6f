import { readFileSync } from 'node:fs'
import { drawPicture, type Scene } from '../demo/pictures.js'
import type { Answered } from './answered.js'
import { oddFeed, productPicture, shopFeed, xml } from './feeds.js'

const demoFile = (name: string) => readFileSync(new URL(`../../demo-files/${name}`, import.meta.url))
const TAGS = 'https://tagworks.example'

const wrapper = (to: string) =>
  `<?xml version="1.0"?><VAST version="4.2"><Ad id="wrapped"><Wrapper><AdSystem>Tagworks</AdSystem>
<VASTAdTagURI><![CDATA[${to}]]></VASTAdTagURI>
<Impression><![CDATA[${TAGS}/seen?at=[TIMESTAMP]]]></Impression>
<Error><![CDATA[${TAGS}/error?code=[ERRORCODE]]]></Error></Wrapper></Ad></VAST>`
const inline = `<?xml version="1.0"?><VAST version="4.2"><Ad id="winter-15"><InLine>
<AdSystem version="2">Tagworks</AdSystem><AdTitle>Winter sky</AdTitle>
<Impression><![CDATA[${TAGS}/shown]]></Impression><Error><![CDATA[${TAGS}/error?code=[ERRORCODE]]]></Error>
<Creatives><Creative id="1"><Linear skipoffset="00:00:05">
<Duration>00:00:15</Duration><TrackingEvents>${['start', 'firstQuartile', 'midpoint', 'thirdQuartile', 'complete', 'skip']
  .map((event) => `<Tracking event="${event}"><![CDATA[${TAGS}/event?name=${event}]]></Tracking>`)
  .join('')}</TrackingEvents>
<VideoClicks><ClickThrough><![CDATA[https://nightjar.example/winter]]></ClickThrough></VideoClicks><MediaFiles>
<MediaFile delivery="progressive" type="video/mp4" width="1280" height="720" bitrate="900"><![CDATA[${TAGS}/winter-15.mp4]]></MediaFile>
</MediaFiles></Linear></Creative></Creatives></InLine></Ad></VAST>`

/** A page of an advertiser of the demo, with its pictures. */
const site =
  (brand: string, scene: Scene, pages: Readonly<Record<string, readonly [title: string, description: string]>>) =>
  async (url: URL): Promise<Answered | null> => {
    const { pathname, host } = url
    const feed = await shopFeed(url)
    if (feed) return feed
    const product = /^\/items\/(\d{1,2})\/(\d{2,4})x(\d{2,4})\.png$/.exec(pathname)
    if (product) return productPicture(scene, Number(product[1]), Number(product[2]), Number(product[3]))
    const picture = /^\/(\d{2,4})x(\d{2,4})\.png$/.exec(pathname)
    if (picture) return { status: 200, type: 'image/png', body: await drawPicture(scene, Number(picture[1]), Number(picture[2])) }
    const [title, description] = pages[pathname] ?? pages['/']
    const html = `<!doctype html><html lang="en"><head><title>${title} | ${brand}</title><meta name="description" content="${description}">
<meta property="og:site_name" content="${brand}"><meta property="og:image" content="/1200x628.png">
<link rel="icon" sizes="256x256" href="https://${host}/256x256.png"></head>
<body><h1>${title}</h1><p>${description}</p><img src="/900x600.png" alt=""></body></html>`
    return { status: 200, type: 'text/html', body: Buffer.from(html) }
  }

/** What the demo's outside answers, by host and path; all of it is made up. One table for all that is fetched. */
const HOSTS: Readonly<Record<string, (url: URL) => Promise<Answered | null> | Answered | null>> = {
  'nightjar.example': site('Nightjar Telescopes', 'night sky', {
    '/': ['Telescopes for clear nights', 'Telescopes that stand in a minute, and what to see with them tonight.'],
    '/winter': ['See the winter sky', 'A telescope that stands in a minute, for clear winter nights.']
  }),
  'ostler.example': site('Ostler Cargo Bikes', 'cargo bike', {
    '/': ['Bikes that carry', 'Cargo bikes for children, shopping and the odd sofa.']
  }),
  'inkwell.example': site('Inkwell Kana', 'brush strokes', {
    '/': ['A stroke a day', 'Learn to write kana, one stroke a day.'],
    '/kana': ['Your first kana', 'Ten minutes a day, thirty days: the first forty-six signs.']
  }),
  'tagworks.example': ({ pathname }) => {
    const deep = /^\/vast\/deep\/(\d)$/.exec(pathname)
    if (deep) return xml(wrapper(`${TAGS}/vast/deep/${Number(deep[1]) + 1}`))
    if (pathname.startsWith('/feed/')) return oddFeed(pathname.slice(6))
    if (/^\/lamps\/\d+\.png$/.test(pathname)) return productPicture('night sky', Number.parseInt(pathname.slice(7)), 1200, 800)
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
      case '/nowhere':
        return { status: 302, type: '', body: Buffer.alloc(0), location: 'http://[' }
      case '/unsaid':
        return { status: 302, type: '', body: Buffer.alloc(0) }
      case '/winter-15.mp4':
      case '/winter%-15.mp4':
        return { status: 200, type: 'video/mp4', body: demoFile('winter-15.mp4') }
      default:
        return null
    }
  }
}

/** Whether some stand-in answers for a host. */
export const hasStandIn = (host: string): boolean => Object.hasOwn(HOSTS, host)

/** The answer of the stand-in for a host; null for a host that none stands in for. */
export async function standIn(url: URL): Promise<Answered | null> {
  const host = HOSTS[url.hostname]
  if (host) return (await host(url)) ?? { status: 404, type: 'text/plain', body: Buffer.from('Not here.') }
  // Nothing of a name that is kept for examples lies outside.
  return url.hostname.endsWith('.example') ? { status: 404, type: 'text/plain', body: Buffer.from('Nobody stands in for this.') } : null
}
