import { ENVIRONMENTS, ENVIRONMENT_OF, FORMATS, PROPERTY_CLASSES, SHAPES, SHAPE_FORMAT, VIDEO_POSITIONS } from '../taxonomy/index.js'
import { asCalled, attribute, labelIn, yesOrNo, type Telling } from './dimension.js'
import { placementAt, propertyAt } from './supply-path.js'

export const SLOT = {
  format: {
    tells: { key: ({ path }, market) => SHAPE_FORMAT[placementAt(path, market).shape], label: labelIn(FORMATS) } satisfies Telling
  },
  class: attribute({
    title: 'kind of property',
    lane: 'path',
    numberOf: (i, catalogue) => PROPERTY_CLASSES.indexOf(propertyAt(i, catalogue).class),
    values: PROPERTY_CLASSES,
    noun: 'property class',
    inFull: ['of the class', 'not of the class'],
    said: ['of the kind', 'not of the kind']
  }),
  environment: attribute({
    lane: 'path',
    numberOf: (i, catalogue) => ENVIRONMENTS.indexOf(ENVIRONMENT_OF[propertyAt(i, catalogue).class]),
    values: ENVIRONMENTS,
    noun: 'environment',
    inFull: ['within', 'not within'],
    said: ['in', 'not in'],
    called: [
      ['connected TV', 'connected TV'],
      ['CTV', 'connected TV'],
      ['websites', 'web'],
      ['apps', 'app']
    ]
  }),
  rewarded: yesOrNo({
    lane: 'path',
    has: (i, catalogue) => placementAt(i, catalogue).rewarded,
    formats: ['display', 'video'],
    inFull: ['rewarded:', 'not rewarded:']
  }),
  size: attribute({
    lane: 'path',
    numberOf: (i, catalogue) => placementAt(i, catalogue).shape,
    values: SHAPES,
    noun: 'slot size or shape',
    inFull: ['in slots of', 'not in slots of'],
    called: asCalled(SHAPES)
  }),
  'video position': attribute({
    lane: 'path',
    numberOf: (i, catalogue) => placementAt(i, catalogue).video,
    values: VIDEO_POSITIONS,
    none: 'no video',
    noun: 'video position',
    formats: ['video'],
    inFull: ['played', 'not played'],
    called: asCalled(VIDEO_POSITIONS)
  }),
  skippable: yesOrNo({
    lane: 'path',
    has: (i, catalogue) => placementAt(i, catalogue).skippable,
    formats: ['video', 'audio'],
    inFull: ['skippable:', 'not skippable:']
  }),
  sound: yesOrNo({
    lane: 'path',
    has: (i, catalogue) => placementAt(i, catalogue).sound,
    formats: ['video', 'audio'],
    inFull: ['sound on:', 'not sound on:'],
    said: ['sound:', 'not sound:']
  })
}
