/** Pages of the demo's advertisers that somebody can walk through: a shop, bookings, and a trial with things to read. */
export interface SitePage {
  title: string
  /** Markup below the title. */
  body: string
  /** What the page calls of our script. */
  calls?: 'cart' | 'purchase' | 'name'
}

/** What was sold, booked or begun. */
export interface Done {
  event: string
  transaction: string
  euros: number
}

export interface SiteBook {
  brand: string
  /** The event that is done at the end. */
  event: string
  euros: number
  /** Path of a form that is sent, and of the page after it. */
  sends: string
  thanks: string
  pages: Readonly<Record<string, SitePage>>
  /** The page after the form. */
  after: (done: Done) => SitePage
}

const form = (to: string, button: string, fields = '') => `<form method="post" action="${to}">${fields}<button>${button}</button></form>`
const field = (label: string, name: string, value: string) => `<p><label>${label} <input name="${name}" value="${value}"></label></p>`

const SCOPE: SitePage = {
  title: 'Wader 80',
  body: `<p>The moons of Jupiter from a balcony. 249 euros, sent tomorrow.</p>${form('/basket', 'Put it in the basket')}
<p><a href="/catalogue">The printed catalogue</a></p>`
}
const TRIAL: SitePage = {
  title: 'A stroke a day',
  body: `<p>Thirty days, ten minutes each, nothing to pay.</p>${form('/begun', 'Begin the trial', field('Your e-mail', 'mail', 'you@post.example'))}
<h2>To read</h2><ul><li><a href="/read/1">Why strokes have an order</a></li><li><a href="/read/2">The brush, and what instead</a></li></ul>`
}

export const SITE_BOOKS: Readonly<Record<string, SiteBook>> = {
  'nightjar.example': {
    brand: 'Nightjar Telescopes',
    event: 'purchase',
    euros: 249,
    sends: '/paid',
    thanks: '/thanks',
    pages: {
      '/': SCOPE,
      '/winter': SCOPE,
      '/de/winter-m': SCOPE,
      '/basket': { title: 'Your basket', body: `<p>One Wader 80, 249 euros.</p>${form('/paid', 'Pay 249 euros')}`, calls: 'cart' },
      '/catalogue': { title: 'The catalogue', body: '<p>It is on its way: 64 pages of nights.</p>', calls: 'name' }
    },
    after: ({ transaction }) => ({
      title: 'Thank you',
      body: `<p>Order ${transaction} is paid, and goes out tomorrow.</p>`,
      calls: 'purchase'
    })
  },
  'ostler.example': {
    brand: 'Ostler Cargo Bikes',
    event: 'test ride',
    euros: 0,
    sends: '/booking',
    thanks: '/booked',
    pages: {
      '/': {
        title: 'Bikes that carry',
        body: '<p>Cargo bikes for children, shopping and the odd sofa.</p><p><a href="/test-ride">Book a test ride</a></p>'
      },
      '/test-ride': {
        title: 'A test ride',
        body: `<p>An hour, a bike, and a hill if you want one.</p>${form('/booking', 'Book it', `${field('Your name', 'name', 'Kim')}${field('Day', 'day', 'Saturday')}`)}`
      }
    },
    after: ({ transaction }) => ({ title: 'Booked', body: `<p>Your ride is number ${transaction}. Bring nothing.</p>` })
  },
  'inkwell.example': {
    brand: 'Inkwell Kana',
    event: 'sign-up',
    euros: 0,
    sends: '/begun',
    thanks: '/welcome',
    pages: {
      '/': TRIAL,
      '/start': TRIAL,
      '/kana': TRIAL,
      '/read/1': {
        title: 'Why strokes have an order',
        body: '<p>The hand learns before the eye does.</p><p><a href="/read/2">Read on</a></p>'
      },
      '/read/2': {
        title: 'The brush, and what instead',
        body: '<p>A pencil does, for a year.</p><p><a href="/start">Begin the trial</a></p>'
      }
    },
    after: () => ({ title: 'Welcome', body: '<p>Your first stroke waits in your mail.</p>' })
  }
}
