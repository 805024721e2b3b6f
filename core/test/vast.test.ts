import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { PLAYED_EVENTS, vastOf, type HostedAd } from '../src/creative/index.js'

const ad = (over: Partial<HostedAd> = {}): HostedAd => ({
  id: 7,
  title: 'Winter sky',
  advertiser: 'Nightjar',
  seconds: 30,
  skipAfter: 5,
  viewedAt: 15,
  landing: 'https://nightjar.example/?a=1&b=[CACHEBUSTING]',
  media: { address: 'https://h.example/a.mp4', type: 'video/mp4', width: 1280, height: 720, kbps: 900.4 },
  companion: { address: 'https://h.example/c.png', type: 'image/png', width: 300, height: 250 },
  icon: { address: 'https://h.example/i.png', type: 'image/png', width: 20, height: 20 },
  endCard: { address: 'https://h.example/e.png', type: 'image/png', width: 640, height: 360 },
  overlay: { text: 'See <it> now', from: 4 },
  tagline: 'Clear nights & long',
  events: 'https://h.example/events?ad=7',
  ...over
})

describe('VAST that is written', () => {
  it('has every quarter, the view point, skip, click, error, companion and icon', () => {
    const xml = vastOf(ad())
    for (const event of PLAYED_EVENTS) expect(xml).toContain(`<Tracking event="${event}">`)
    expect(xml).toContain(
      '<Tracking event="progress" offset="00:00:15.000"><![CDATA[https://h.example/events?ad=7&event=viewed&at=[CACHEBUSTING]]]>'
    )
    expect(xml).toContain('skipoffset="00:00:05.000"')
    expect(xml).toContain('<Duration>00:00:30.000</Duration>')
    expect(xml).toContain('[ERRORCODE]')
    expect(xml).toContain('bitrate="900"')
    expect(xml).toContain('<Companion id="1" width="300" height="250" renderingMode="concurrent">')
    expect(xml).toContain('<Companion id="2" width="640" height="360" renderingMode="end-card">')
    expect(xml).toContain('See &lt;it&gt; now</div>]]></HTMLResource>')
    expect(xml).toContain('<CallFrom>00:00:04.000</CallFrom>')
    expect(xml).toContain('<Description>Clear nights &amp; long</Description>')
    expect(xml).toContain('<Icon program="tin-harbor" width="20" height="20"')
    const bare = vastOf(ad({ skipAfter: null, viewedAt: null, companion: null, icon: null, endCard: null, overlay: null, tagline: null }))
    for (const gone of ['skip', '"progress"', 'Companion', 'Icon', 'NonLinear', 'Extension', 'Description'])
      expect(bare).not.toContain(gone)
    expect(
      vastOf(ad({ media: { address: 'https://h.example/a.m4a', type: 'audio/mp4', width: null, height: null, kbps: null } }))
    ).toContain('adType="audio"')
  })

  it('lets nothing that is written in an ad end its section or begin another', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (title, tail) => {
        const xml = vastOf(ad({ title: `${title}<![CDATA[`, landing: `https://x.example/${tail}]]><Evil/>` }))
        expect(xml.match(/<ClickThrough /g)).toHaveLength(1)
        const inside = xml.replace(/<!\[CDATA\[[\s\S]*?\]\]>/g, '')
        expect(inside).not.toContain('<Evil')
        expect(inside.match(/<AdTitle>[^<]*<\/AdTitle>/)).not.toBeNull()
      }),
      { numRuns: 200 }
    )
  })
})
