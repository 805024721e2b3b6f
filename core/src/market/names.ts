/** Parts of made-up names of properties and publishers: per subject first words, then what kind of thing it is. */
import type { Category } from '../taxonomy/index.js'

export const FIRST_WORDS: Readonly<Record<Category, readonly string[]>> = {
  'sky and science': ['Northern Sky', 'Meridian', 'Perihelion', 'Dark Field', 'Small Comet', 'Quiet Orbit', 'Evening Star', 'Lens & Dome'],
  nature: ['Meadow', 'Puddle & Pine', 'Hedgerow', 'Tide Pool', 'Barn Owl', 'Fern & Stone', 'Marsh Light', 'Wild Bank'],
  news: ['Harrow & Hull', 'Lantern', 'Morning Quay', 'Civic', 'Almond Street', 'Old Bridge', 'Corner', 'Ninth Ward', 'Tollgate', 'Market Square'],
  sport: ['Touchline', 'Second Half', 'Long Run', 'Away End', 'Oar & Sail', 'Far Post', 'Base Camp'],
  food: ['Copper Pan', 'Salt Shelf', 'Slow Oven', 'Little Ladle', 'Plum Table', 'Crust & Crumb', 'Green Pepper'],
  travel: ['Night Ferry', 'Paper Map', 'Window Seat', 'Far Platform', 'Cove & Trail', 'Blue Timetable'],
  family: ['Small Boots', 'Bedtime', 'School Gate', 'Two Prams', 'Rainy Day', 'Kite String'],
  home: ['Paint Tin', 'Bright Attic', 'Spirit Level', 'Potting Shed', 'Loose Hinge', 'Oak Drawer'],
  cycling: ['Spoke', 'Cargo Lane', 'Chain & Bell', 'Slow Pedal', 'Canal Path'],
  technology: ['Solder', 'Bit & Byte', 'Open Port', 'Spare Cable', 'Glasshouse', 'Second Screen'],
  business: ['Double Entry', 'Ledger Lane', 'Margin', 'Steady Yield', 'Counting Room'],
  puzzles: ['Tile Garden', 'Word Ferry', 'Nine Dots', 'Marble Run', 'Cosy Match', 'Number Barn'],
  music: ['Kettle', 'Third Chord', 'B Side', 'Night Organ', 'Slow Drum'],
  languages: ['Ink Stroke', 'Loan Word', 'Phrase', 'Many Tongues'],
  weather: ['Tern', 'Barometer', 'Cloud Ledger', 'Wind Rose'],
  health: ['Even Breath', 'Plain Apple', 'Sound Sleep', 'Good Knees'],
  arts: ['Gallery Mile', 'Ochre', 'Stage Left', 'Clay & Thread'],
  motoring: ['Open Bonnet', 'Third Gear', 'Lay-by', 'Torque']
}

export const KIND_WORDS = {
  site: ['Journal', 'Weekly', 'Review', 'Almanac', 'Post', 'Notes', 'Gazette', 'Index'],
  app: ['', 'Daily', 'Pocket', 'Go', 'Club'],
  newsletter: ['Letter', 'Dispatch', 'Briefing']
} as const

export const PUBLISHER_FIRST = ['Alder', 'Brackwater', 'Carrick', 'Dunmore', 'Eskdale', 'Fairlight', 'Gannet', 'Holloway', 'Inver', 'Juniper', 'Kestrel', 'Lowmoor', 'Marram', 'Nettle', 'Orchard', 'Petrel', 'Quarry', 'Rowan', 'Saltmarsh', 'Thornbury', 'Umber', 'Verity', 'Whin', 'Yarrow', 'Ashby', 'Birch', 'Clover', 'Drift'] as const
export const PUBLISHER_LAST = ['Media', 'Press', 'Publishing', 'House', 'Titles', 'Pages'] as const

/** Where on a page a slot of a size is usually found. */
export const POSITIONS: Readonly<Record<string, readonly string[]>> = {
  '300x250': ['article middle', 'article foot', 'side column'],
  '728x90': ['page head', 'page foot'],
  '320x50': ['sticky foot', 'list, third'],
  '300x600': ['side column, tall'],
  '160x600': ['left edge'],
  '970x250': ['page head, wide'],
  '320x100': ['article head', 'list, fifth'],
  '336x280': ['gallery, third', 'article middle']
}
