import { DEVICE_TYPES } from '../taxonomy/index.js'
import { BOT_CLICKS, DEVICE_CLICKS, REPEAT_CLICKS, TIER_CLICKS, stayRate } from '../response/index.js'
import { DESKTOP, Groups, PHONE, bound, type Topic } from './bounds.js'

/** How people respond: means of the hidden rates over the opportunities of the tape, for a first exposure of an ad that is like any. */
export function responses(): Topic {
  const means = new Groups()
  return {
    look: ({ format, kind, placement, device, tier, isBot }) => {
      const viewable = placement.viewable / 65536
      means.add(`viewable ${kind}`, viewable)
      if (placement.completes > 0) {
        const part =
          kind === 'television' || format === 'audio'
            ? format === 'audio'
              ? 'audio'
              : kind
            : placement.skippable
              ? 'skippable'
              : 'not skippable'
        means.add(`to the end, ${part}`, placement.completes / 65536)
      }
      if (isBot) return
      const clicks = viewable * (placement.clicks / 65536) * DEVICE_CLICKS[device] * TIER_CLICKS[tier]
      means.add(`clicks ${format === 'audio' ? format : kind}`, clicks)
      if (format === 'pop') means.add('pops that stay', stayRate(placement, device))
      else if (device === PHONE || device === DESKTOP) {
        means.add(`clicks of ${DEVICE_TYPES[device]}`, clicks)
        means.add(`stays of ${DEVICE_TYPES[device]}`, clicks * stayRate(placement, device))
      }
    },
    bounds: () => {
      const perCent = (name: string) => 100 * means.mean(name)
      const mistakes = (type: string) => 100 * (1 - means.mean(`stays of ${type}`) / means.mean(`clicks of ${type}`))
      return [
        bound('viewable, display, %', perCent('viewable display'), 45, 65),
        bound('viewable, native, %', perCent('viewable native'), 55, 70),
        bound('viewable, web and app video, %', perCent('viewable web and app video'), 60, 75),
        bound('viewable, television, %', perCent('viewable television'), 95, 99),
        bound('played to the end, television, %', perCent('to the end, television'), 93, 98),
        bound('played to the end, web video that cannot be skipped, %', perCent('to the end, not skippable'), 75, 90),
        bound('played to the end, web video that can, %', perCent('to the end, skippable'), 20, 40),
        bound('played to the end, audio, %', perCent('to the end, audio'), 90, 97),
        bound('clicked by people, display, %', perCent('clicks display'), 0.08, 0.2),
        bound('clicked by people, native, %', perCent('clicks native'), 0.25, 0.7),
        bound('clicked by people, web and app video, %', perCent('clicks web and app video'), 0.2, 0.5),
        bound('clicked by people, television, %', perCent('clicks television'), 0, 0),
        bound('clicked by people, audio, %', perCent('clicks audio'), 0.02, 0.08),
        bound('clicks of phones without a stay, %', mistakes('phone'), 25, 45),
        bound('clicks of desktops without a stay, %', mistakes('desktop'), 8, 18),
        bound('visits of pops that stay, %', perCent('pops that stay'), 3, 8),
        bound('sixth exposure against the first, clicks', REPEAT_CLICKS[5], 0.35, 0.6),
        bound('robots against people, clicks', BOT_CLICKS, 3, 10)
      ]
    }
  }
}
