import type { PropertyClass, Shape } from '../taxonomy/index.js'
/** Parts of made-up names of properties and publishers: per subject first words, then what kind of thing it is. */

export const FIRST_WORDS: Readonly<Record<string, readonly string[]>> = {
  science: ['Northern Sky', 'Meridian', 'Perihelion', 'Dark Field', 'Small Comet', 'Quiet Orbit', 'Evening Star', 'Lens & Dome', 'Tern', 'Cloud Ledger', 'Wind Rose'],
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
  games: ['Tile Garden', 'Word Ferry', 'Nine Dots', 'Marble Run', 'Cosy Match', 'Number Barn'],
  music: ['Kettle', 'Third Chord', 'B Side', 'Night Organ', 'Slow Drum'],
  languages: ['Ink Stroke', 'Loan Word', 'Phrase', 'Many Tongues'],
  health: ['Even Breath', 'Plain Apple', 'Sound Sleep', 'Good Knees'],
  arts: ['Gallery Mile', 'Ochre', 'Stage Left', 'Clay & Thread'],
  money: ['Steady Purse', 'Copper Jar', 'Fair Rate', 'Second Pillar', 'Penny Lantern', 'Rainy Fund'],
  style: ['Selvedge', 'Hem & Cuff', 'Plain Stitch', 'Good Wool', 'Blue Button', 'Cedar Drawer'],
  property: ['Front Door', 'Floor Plan', 'Two Keys', 'Garden Flat', 'Brick & Beam', 'For Let'],
  pets: ['Wet Nose', 'Tabby', 'Long Lead', 'Feather & Fin', 'Burrow', 'Paw Print'],
  careers: ['First Shift', 'Open Post', 'Notice Board', 'Trade & Craft', 'Bench', 'Fair Wage'],
  education: ['Chalk', 'Evening Class', 'Margin Note', 'Long Term', 'Blue Book', 'Quad'],
  adult: ['After Ten', 'Velvet Hour', 'Second Drink', 'Late Table', 'Moon Booth'],
  motoring: ['Open Bonnet', 'Third Gear', 'Lay-by', 'Torque']
}

export const KIND_WORDS: Readonly<Record<PropertyClass, readonly string[]>> = {
  site: ['Journal', 'Weekly', 'Review', 'Almanac', 'Post', 'Notes', 'Gazette', 'Index'],
  app: ['', 'Daily', 'Pocket', 'Go', 'Club'],
  game: ['Quest', 'Rush', 'Garden', 'Islands', 'Saga'],
  'social feed': ['Circle', 'Commons', 'Wall'],
  'mail inbox': ['Mail', 'Letterbox'],
  newsletter: ['Letter', 'Dispatch', 'Briefing'],
  show: ['Hour', 'Tapes', 'Radio', 'Conversations', 'Sessions'],
  channel: ['Channel', 'One', 'Vision', 'Evenings']
}

export const PUBLISHER_FIRST = ['Alder', 'Brackwater', 'Carrick', 'Dunmore', 'Eskdale', 'Fairlight', 'Gannet', 'Holloway', 'Inver', 'Juniper', 'Kestrel', 'Lowmoor', 'Marram', 'Nettle', 'Orchard', 'Petrel', 'Quarry', 'Rowan', 'Saltmarsh', 'Thornbury', 'Umber', 'Verity', 'Whin', 'Yarrow', 'Ashby', 'Birch', 'Clover', 'Drift'] as const
export const PUBLISHER_LAST = ['Media', 'Press', 'Publishing', 'House', 'Titles', 'Pages'] as const

/** Where slots of a shape are usually found. */
export const POSITIONS: Readonly<Record<Shape, readonly string[]>> = {
  '300x250': ['article middle', 'article foot', 'side column'], '728x90': ['page head', 'page foot'], '320x50': ['sticky foot', 'list, third'],
  '300x600': ['side column, tall'], '160x600': ['left edge'], '970x250': ['page head, wide'], '320x100': ['article head', 'list, fifth'], '336x280': ['gallery, third', 'article middle'],
  'interstitial, upright': ['between screens', 'on opening'], 'interstitial, wide': ['between levels'],
  'native card': ['feed, fourth', 'end of article'], 'native row': ['list, second', 'list, ninth'], notification: ['notification'],
  'small player': ['beside the text'], 'medium player': ['in the text', 'in the feed'], 'large player': ['full width'],
  'audio spot': ['first spot', 'middle spot', 'last spot'], 'whole page': ['new page'], 'redirect visit': ['redirected visit']
}

export const NETWORK_STEMS = ['Amber', 'Beacon', 'Cobalt', 'Delta Nine', 'Estuary', 'Falcon', 'Glimmer', 'Heron', 'Indigo', 'Jetty', 'Kite', 'Linden', 'Mistral', 'Nimbus', 'Osprey', 'Pylon', 'Quill', 'Ripple', 'Sorrel', 'Tundra', 'Ultramar', 'Vireo', 'Willow', 'Zephyr'] as const
export const EMPLOYER_FIRST = ['Ardent', 'Bellwether', 'Castellan', 'Durant', 'Eastgate', 'Fennimore', 'Greystone', 'Harcourt', 'Irongate', 'Jessop', 'Keswick', 'Lindqvist', 'Moreau', 'Northam', 'Oakhurst', 'Palgrave', 'Quintero', 'Redfern', 'Sandoval', 'Tamworth', 'Underhill', 'Valente', 'Westmark', 'Yamato', 'Zeller'] as const
export const EMPLOYER_LAST = ['Group', 'Works', 'Partners', 'Industries', 'Systems', 'Brothers', 'Holding', 'Services', 'Labs', 'Cooperative', 'Trust', 'Lines', 'Mills', 'Foods', 'Care', 'Energy', 'Bank', 'Transport', 'Stores', 'Networks'] as const
