import { AUDIO } from './audio.js'
import { DISPLAY } from './display.js'
import { NATIVE } from './native.js'
import { POP } from './pop.js'
import { VIDEO } from './video.js'

/** Every format, one object each. Their order is the number that columns hold, and so is that of their shapes: add at the end. */
export const TABLE = { display: DISPLAY, native: NATIVE, video: VIDEO, audio: AUDIO, pop: POP }
