import { INKWELL } from './full-inkwell.js'
import { NIGHTJAR } from './full-nightjar.js'
import { OSTLER } from './full-ostler.js'
import { demoFile } from './demo-files.js'
import { BEATRIZ, FROM, INES, dayOf } from './full-parts.js'
import { DEMO_HOUR, euros, type Scenario } from './scenario.js'
import { TEAM } from './small-scenario.js'

/** Four weeks of a team of six: six campaigns in all formats and ways of paying. */
export const FULL_SCENARIO: Scenario = {
  users: [
    ...TEAM,
    { name: 'Beatriz Nunes', email: BEATRIZ, role: 'trader', sees: ['Nightjar Telescopes', 'Ostler Cargo Bikes'] },
    { name: 'Tomé Pires', email: 'tome@wharfside.example', role: 'assistant', sees: ['Inkwell Kana'] },
    { name: 'Clara Reis', email: 'clara@wharfside.example', role: 'finance', sees: 'all' }
  ],
  moneyInMicros: euros(8500),
  from: FROM,
  campaigns: [...NIGHTJAR, ...OSTLER, ...INKWELL],
  deeds: [
    { hour: dayOf(16), by: INES, does: 'leave out what is dearer', line: 'Display, desktop, DE AT' },
    { hour: dayOf(22), by: INES, does: 'end', line: 'Display, desktop, BE' },
    { hour: dayOf(22), by: BEATRIZ, does: 'leave out what is dearer', line: 'Display, phones, NL' },
    {
      hour: DEMO_HOUR,
      by: BEATRIZ,
      does: 'edit',
      line: 'Display, phones, DE AT',
      change: (draft) => ({ ...draft, price: { ...draft.price, bidMicros: euros(0.75) } })
    },
    {
      hour: DEMO_HOUR,
      by: BEATRIZ,
      does: 'edit',
      line: 'Display, desktop, NL',
      change: (draft) => ({ ...draft, budget: { ...draft.budget, dailyMicros: euros(18) } })
    },
    {
      hour: DEMO_HOUR,
      by: BEATRIZ,
      does: 'slip',
      name: 'More for March',
      items: [
        { line: 'Display, phones, DE AT', fields: ['price.bidMicros'] },
        { line: 'Display, desktop, NL', fields: ['budget.dailyMicros'] }
      ]
    }
  ],
  creatives: {
    'Ostler Cargo Bikes': [
      {
        name: 'A box on wheels, native',
        kind: 'native',
        parts: {
          headline: 'Three children, one bike',
          longHeadline: 'Three children, one bike',
          text: 'Ride a cargo bike for an hour, from the shop near you.',
          brand: 'Ostler Cargo Bikes',
          icon: demoFile('bike-icon.png'),
          picture: demoFile('bike-card.png'),
          button: 'Book a ride'
        }
      },
      {
        name: 'Saturday, native',
        kind: 'native',
        parts: {
          headline: 'A ride on Saturday',
          longHeadline: 'An hour on a cargo bike, this Saturday',
          text: 'From the shop near you; bring who you carry.',
          brand: 'Ostler Cargo Bikes',
          icon: demoFile('bike-icon.png'),
          picture: demoFile('bike-card.png'),
          button: 'Book a ride'
        }
      },
      {
        name: 'Saddle up, native',
        kind: 'native',
        parts: {
          headline: 'SADDLE UP FOR SPRING',
          longHeadline: 'SADDLE UP FOR SPRING, TODAY',
          text: 'Cargo bikes for children, shopping and the odd sofa.',
          brand: 'Ostler Cargo Bikes',
          icon: demoFile('bike-icon.png'),
          picture: demoFile('bike-card.png'),
          button: 'Book a ride'
        }
      },
      {
        name: 'Dry, native',
        kind: 'native',
        parts: {
          headline: 'Guaranteed dry in rain',
          longHeadline: 'A box that is guaranteed dry in any rain',
          text: 'Two children and the shopping, under one roof.',
          brand: 'Ostler Cargo Bikes',
          icon: demoFile('bike-icon.png'),
          picture: demoFile('bike-card.png'),
          button: 'Book a ride'
        }
      }
    ],
    'Inkwell Kana': [
      {
        name: 'Ten minutes of kana, native',
        kind: 'native',
        parts: {
          headline: 'Write Japanese by hand',
          longHeadline: 'Write Japanese by hand',
          text: 'Ten minutes a day, stroke by stroke. The first week is free.',
          brand: 'Inkwell Kana',
          icon: demoFile('kana-icon.png'),
          picture: demoFile('kana-card.png'),
          button: 'Start'
        }
      },
      {
        name: 'One stroke, 15 s',
        kind: 'video',
        parts: { file: demoFile('stroke-15.mp4'), seconds: 15, width: 1280, height: 720, skipAfter: 5, companion: null }
      },
      {
        name: 'Kana on the train, spoken',
        kind: 'audio',
        parts: { file: demoFile('train-20.m4a'), seconds: 20, companion: null }
      }
    ]
  }
}
