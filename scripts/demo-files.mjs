import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import sharp from 'sharp'
import { ZipFile } from 'yazl'
import { say } from './console.mjs'
import { inProject } from './project.mjs'

/**
 * node scripts/demo-files.mjs [all]: makes the films, spots and the banner of the demo anew, from the scenes of its pictures, with what
 * is known of each. They are kept in the repository, so that a demo is the same on every machine whatever its encoders do.
 */

const { sceneOf } = await import('../server/dist/demo/pictures.js')
const { bedInput, speakSpot } = await import('../server/dist/standins/voice-studio.js')
const { readFacts } = await import('../server/dist/files/reading.js')

const FOLDER = inProject('server', 'demo-files')
/** Pictures a second that are drawn; each is shown twice. */
const DRAWN = 12.5

/** @typedef {'night sky' | 'cargo bike' | 'brush strokes'} Scene */
/**
 * @typedef {object} Made
 * @property {string} file @property {string} advertiser @property {string} name @property {string} altText @property {string[]} tags
 * @property {(path: string) => Promise<void>} make
 */

const NIGHT = { advertiser: 'Nightjar Telescopes', altText: 'The moon rises over hills with a telescope', scene: 'night sky' }
const BIKE = { advertiser: 'Ostler Cargo Bikes', altText: 'A cargo bike rides into the picture', scene: 'cargo bike' }
const BRUSH = { advertiser: 'Inkwell Kana', altText: 'A brush writes a kana, stroke by stroke', scene: 'brush strokes' }
/** @type {[number, number]} */
const WIDE = [1280, 720]
/** @type {[number, number]} */
const UPRIGHT = [720, 1280]

/** @type {Made[]} */
const FILES = [
  film('winter-30.mp4', NIGHT, 'Winter sky, 30 s', WIDE, 30),
  film('winter-15.mp4', NIGHT, 'Winter sky, 15 s', WIDE, 15),
  film('winter-6.mp4', NIGHT, 'Winter sky, 6 s', WIDE, 6),
  film('winter-46.mp4', NIGHT, 'Winter sky, the long one', WIDE, 46),
  film('school-run-15.mp4', BIKE, 'School run, 15 s', WIDE, 15),
  film('school-run-15-upright.mp4', BIKE, 'School run, upright', UPRIGHT, 15),
  film('school-run-6-upright.mp4', BIKE, 'School run, upright, 6 s', UPRIGHT, 6),
  film('soundless-15.mp4', BIKE, 'Box on wheels, no sound yet', WIDE, 15, false),
  film('stroke-15.mp4', BRUSH, 'One stroke, 15 s', WIDE, 15),
  film('stroke-6.mp4', BRUSH, 'One stroke, 6 s', WIDE, 6),
  {
    file: 'winter-20.m4a',
    advertiser: 'Nightjar Telescopes',
    name: 'Winter sky, spoken',
    altText: 'A voice: the winter sky is clear tonight',
    tags: ['spoken'],
    make: (path) =>
      speak(
        path,
        'The winter sky is clear tonight. A telescope from Nightjar stands in a minute, and shows you the moons of Jupiter. Nightjar telescopes, for clear nights.'
      )
  },
  {
    file: 'train-20.m4a',
    advertiser: 'Inkwell Kana',
    name: 'Kana on the train, spoken',
    altText: 'A voice: ten minutes of kana on the train',
    tags: ['spoken'],
    make: (path) =>
      speak(
        path,
        'Your train takes ten minutes. So does a lesson of kana, stroke by stroke, by hand. Inkwell Kana. The first week is free.'
      )
  },
  {
    file: 'stroke-300x250.zip',
    advertiser: 'Inkwell Kana',
    name: 'Stroke by stroke, banner',
    altText: 'A brush writes a kana; a button says Start',
    tags: ['banner'],
    make: async (path) => writeFileSync(path, await banner())
  }
]

/**
 * @param {string} file @param {{ advertiser: string, altText: string, scene: string }} of
 * @param {string} name @param {[number, number]} size @param {number} seconds @returns {Made}
 */
function film(file, { advertiser, altText, scene }, name, size, seconds, hasSound = true) {
  const make = (/** @type {string} */ path) => encode(path, /** @type {Scene} */ (scene), size, seconds, hasSound)
  return { file, advertiser, name, altText, tags: [`${seconds} s`], make }
}

/** @param {string} path @param {Scene} scene @param {[number, number]} size @param {number} seconds @param {boolean} hasSound */
async function encode(path, scene, [width, height], seconds, hasSound) {
  const sound = hasSound
    ? [
        ...bedInput(seconds),
        '-map',
        '0:v',
        '-map',
        '1:a',
        '-af',
        'loudnorm=I=-20:TP=-2:LRA=11',
        '-c:a',
        'aac',
        '-b:a',
        '48k',
        '-ac',
        '1',
        '-ar',
        '48000'
      ]
    : ['-an']
  const seen = ['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${height}`, '-r', String(DRAWN), '-i', '-']
  const written = [
    '-c:v',
    'libx264',
    '-preset',
    'slow',
    '-crf',
    '26',
    '-pix_fmt',
    'yuv420p',
    '-r',
    '25',
    '-g',
    '50',
    '-b:v',
    '0',
    '-minrate',
    '0'
  ]
  const child = spawn(
    'ffmpeg',
    [
      '-v',
      'error',
      ...seen,
      ...sound,
      ...written,
      '-t',
      String(seconds),
      '-map_metadata',
      '-1',
      '-fflags',
      '+bitexact',
      '-movflags',
      '+faststart',
      '-y',
      path
    ],
    {
      stdio: ['pipe', 'inherit', 'inherit']
    }
  )
  const over = new Promise((resolve, reject) =>
    child.on('exit', (code) => (code === 0 ? resolve(undefined) : reject(new Error(`ffmpeg ended with ${code}`))))
  )
  const frames = Math.round(seconds * DRAWN)
  for (let n = 0; n < frames; n++) {
    // Most of the movement is over before the end, which is held.
    const frame = await sharp(sceneOf(scene, width, height, Math.min(1, n / (frames * 0.8))))
      .flatten()
      .removeAlpha()
      .raw()
      .toBuffer()
    if (!child.stdin.write(frame)) await new Promise((resolve) => child.stdin.once('drain', resolve))
  }
  child.stdin.end()
  await over
}

/** @param {string} path @param {string} script */
const speak = (path, script) =>
  speakSpot({ name: 'demo', script, voice: 'English', seconds: 20, bed: true }, path, new AbortController().signal)

/** A page with a picture, a style and a script, whose strokes are drawn one after the other, twice. */
async function banner() {
  const page = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="ad.size" content="width=300,height=250"><title>Stroke by stroke</title>
<link rel="stylesheet" href="banner.css"><script>var clickTag = 'https://inkwell.example/start'</script></head>
<body><a id="all" href="#"><svg viewBox="0 0 120 120"><path d="M20 30 Q54 20 90 26"/><path d="M54 16 Q56 60 36 100"/><path d="M52 56 Q76 50 90 70 Q94 94 68 98"/></svg>
<img src="seal.png" width="24" height="24" alt=""><b>Start</b></a><script src="banner.js"></script></body></html>
`
  const style = `html,body{margin:0}#all{display:block;position:relative;width:300px;height:250px;overflow:hidden;background:#f7f1e6;color:#f7f1e6;text-decoration:none}
svg{position:absolute;left:50px;top:10px;width:200px;height:200px;fill:none;stroke:#232323;stroke-linecap:round;stroke-width:9}
path{stroke-dasharray:120;stroke-dashoffset:120;animation:write 1.2s ease-in forwards}path:nth-child(2){animation-delay:1.3s}path:nth-child(3){animation-delay:2.6s}
img{position:absolute;right:40px;bottom:56px}b{position:absolute;left:100px;bottom:10px;width:100px;padding:6px 0;background:#b8322a;font:600 15px/1.2 sans-serif;text-align:center}
@keyframes write{to{stroke-dashoffset:0}}
`
  const script = `document.getElementById('all').addEventListener('click', function (event) {
  event.preventDefault()
  window.open(window.clickTag)
})
`
  const seal = await sharp(
    Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="24" height="24"><rect width="24" height="24" rx="4" fill="#b8322a"/></svg>')
  )
    .png()
    .toBuffer()
  const zip = new ZipFile()
  const holds = { 'index.html': page, 'banner.css': style, 'banner.js': script, 'seal.png': seal }
  for (const [name, data] of Object.entries(holds)) zip.addBuffer(Buffer.from(data), name, { mtime: new Date(Date.UTC(2026, 0, 1)) })
  zip.end()
  return buffer(zip.outputStream)
}

mkdirSync(FOLDER, { recursive: true })
const known = []
let bytes = 0
for (const { file, advertiser, name, altText, tags, make } of FILES) {
  const path = join(FOLDER, file)
  // What is there is made anew with `all`.
  if (process.argv.includes('all') || !existsSync(path)) await make(path)
  const { size } = statSync(path)
  bytes += size
  known.push({
    file,
    advertiser,
    name,
    altText,
    tags,
    sha256: createHash('sha256').update(readFileSync(path)).digest('hex'),
    facts: await readFacts(path, size)
  })
  say(`${file}: ${Math.ceil(size / 1024)} kB`)
}
writeFileSync(join(FOLDER, 'files.json'), `${JSON.stringify(known, null, 2)}\n`)
say(`${(bytes / 1024 / 1024).toFixed(1)} MB in all`)
