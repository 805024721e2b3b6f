import sharp from 'sharp'
import { readMarket } from '../going-live/publications.js'
import { sceneOf, type Scene } from '../demo/pictures.js'
import type { Answered } from './answered.js'

const answered = (type: string, text: string): Answered => ({ status: 200, type, body: Buffer.from(text) })
export const xml = (text: string, type = 'application/xml') => answered(type, text)

interface Product {
  id: string
  name: string
  says: string
  euros: number
  /** Hours of the day in which there is none left; the workshop brings more each evening. */
  outFrom?: number
  outTo?: number
}
const BIKES: readonly Product[] = [
  { id: 'O-101', name: 'Family box', says: 'Two children and the shopping, dry in the rain.', euros: 2490 },
  { id: 'O-102', name: 'Longtail', says: 'Carries a friend, or the sofa in two trips.', euros: 1990, outFrom: 14, outTo: 20 },
  { id: 'O-103', name: 'Flatbed', says: 'A bed of ash wood for what is wide.', euros: 2190 },
  { id: 'O-104', name: 'Baker', says: 'Bread for forty before breakfast.', euros: 1790 },
  { id: 'O-105', name: 'Trailer, small', says: 'Follows any bike you have.', euros: 390 },
  { id: 'O-106', name: 'Trailer, large', says: 'Follows any bike, with a roof.', euros: 540 },
  { id: 'O-107', name: 'Second-hand box', says: 'One owner, new chain.', euros: 990, outFrom: 0, outTo: 24 }
]
const TELESCOPES: readonly Product[] = [
  { id: 'N-60', name: 'Wader 60', says: 'A first telescope that stands in a minute.', euros: 129 },
  { id: 'N-80', name: 'Wader 80', says: 'The moons of Jupiter from a balcony.', euros: 249 },
  { id: 'N-130', name: 'Plover 130', says: 'Gathers light enough for galaxies.', euros: 449 },
  { id: 'N-200', name: 'Heron 200', says: 'For dark places and patient people.', euros: 899 }
]
const COURSES: readonly Product[] = [
  { id: 'K-1', name: 'First kana', says: 'The first forty-six signs in thirty days.', euros: 19 },
  { id: 'K-2', name: 'Second kana', says: 'The other forty-six, a stroke a day.', euros: 19 },
  { id: 'K-3', name: 'Brush and ink', says: 'Write by hand what you read.', euros: 29 }
]

/** How many are left of a product at a market hour. */
const leftOf = ({ outFrom, outTo }: Product, hour: number) =>
  outFrom !== undefined && outTo !== undefined && hour % 24 >= outFrom && hour % 24 < outTo ? 0 : 7

const place = (host: string, n: number) => ({ link: `https://${host}/items/${n}`, picture: `https://${host}/items/${n}/1200x800.png` })

const rss = (host: string, hour: number) =>
  xml(
    `<?xml version="1.0" encoding="UTF-8"?><rss version="2.0" xmlns:shop="https://${host}/terms"><channel><title>Bikes</title>
${BIKES.map((one, n) => {
  const { link, picture } = place(host, n)
  return `<item><title>${one.name}</title><link>${link}</link><guid>${one.id}</guid>
<description><![CDATA[${one.says}]]></description><enclosure url="${picture}" type="image/png" length="1"/>
<shop:price>${one.euros}.00 EUR</shop:price><shop:stock>${leftOf(one, hour)}</shop:stock></item>`
}).join('\n')}</channel></rss>`,
    'application/rss+xml'
  )

const csv = (host: string) =>
  answered(
    'text/csv',
    ['sku;name;description;url;image;price;availability']
      .concat(
        TELESCOPES.map(({ id, name, says, euros }, n) => {
          const { link, picture } = place(host, n)
          return [id, name, `"${says}"`, link, picture, `"${euros},00 €"`, 'InStock'].join(';')
        })
      )
      .join('\r\n')
  )

/** An element of markup. */
const element = (name: string, holds: string) => `<${name}>${holds}</${name}>`

function atom(host: string): Answered {
  const entries = COURSES.map(({ id, name, says, euros }, n) => {
    const { link, picture } = place(host, n)
    const links = [`<link rel="alternate" href="${link}"/>`, `<link rel="enclosure" href="${picture}"/>`]
    const texts = [element('id', id), element('title', name), element('summary', says), element('price', String(euros))]
    return element('entry', [...texts, ...links].join(''))
  })
  const feed = `<feed xmlns="http://www.w3.org/2005/Atom"><title>Courses</title>${entries.join('')}</feed>`
  return xml(`<?xml version="1.0"?>${feed}`, 'application/atom+xml')
}

/** A shop's list of products at the hour that the market's clock shows. */
export async function shopFeed({ host, pathname }: URL): Promise<Answered | null> {
  switch (`${host}${pathname}`) {
    case 'ostler.example/bikes.rss':
      return rss(host, (await readMarket()).hour)
    case 'nightjar.example/telescopes.csv':
      return csv(host)
    case 'inkwell.example/courses.atom':
      return atom(host)
    default:
      return null
  }
}

/** A picture of one product: the shop's own scene in a colour of the product's. */
export async function productPicture(scene: Scene, nth: number, width: number, height: number): Promise<Answered> {
  const turned = sharp(sceneOf(scene, width, height)).modulate({ hue: (nth * 47) % 360 })
  return { status: 200, type: 'image/png', body: await turned.png({ palette: true }).toBuffer() }
}

/** How many items the long feed has, and each which of them is broken. */
const [MANY, EACH_BROKEN] = [10_000, 333]
const BROKEN: readonly (readonly [part: string, value: string])[] = [
  ['title', ''],
  ['price', 'a lot'],
  ['link', 'inside']
]

/** Ten thousand products, of which thirty are broken in three ways. */
function many(): string {
  const products = Array.from({ length: MANY }, (_, n) => {
    const nth = n + 1
    const wrong = nth % EACH_BROKEN === 0 ? BROKEN[(nth / EACH_BROKEN) % BROKEN.length] : null
    const parts: Record<string, string> = {
      title: `Lamp number ${nth}`,
      description: `A lamp for desk ${nth}, of brass and glass.`,
      link: `https://tagworks.example/lamps/${nth}`,
      image: `https://tagworks.example/lamps/${nth}.png`,
      price: `${20 + (nth % 80)}.50`,
      stock: nth % 10 === 0 ? '0' : '5',
      ...(wrong ? { [wrong[0]]: wrong[1] } : {})
    }
    const holds = Object.entries(parts).map(([name, value]) => element(name, value))
    return `<product id="P-${nth}">${holds.join('')}</product>`
  })
  return `<?xml version="1.0"?>${element('products', products.join(''))}`
}

/** Nine entities, each of ten of the one before: a thousand million words where they are written out. */
function bomb(): string {
  const names = 'abcdefghij'
  const entities = Array.from({ length: 9 }, (_, n) => `<!ENTITY ${names[n + 1]} "${`&${names[n]};`.repeat(10)}">`)
  const declared = `<!DOCTYPE r [<!ENTITY a "boom">${entities.join('')}]>`
  return `<?xml version="1.0"?>${declared}<rss><channel><item><title>&j;</title></item></channel></rss>`
}

/** Feeds that are not as they should be, and a long one. */
export function oddFeed(name: string): Answered | null {
  switch (name) {
    case 'many.xml':
      return xml(many())
    case 'bomb.xml':
      return xml(bomb())
    case 'huge.xml':
      return xml(`<rss><channel>${'<item><title>x</title></item>'.repeat(1_750_000)}</channel></rss>`)
    case 'cut.xml':
      return xml('<rss><channel><item><title>One</title></item><item><title>Tw')
    case 'page.html':
      return answered('text/html', '<!doctype html><html><body>No feed.</body></html>')
    case 'empty.csv':
      return answered('text/csv', '')
    default:
      return null
  }
}
