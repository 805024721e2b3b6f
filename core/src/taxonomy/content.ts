/** What pages and shows are about: branches with leaves, in our own words. */
export interface Category {
  index: number
  name: string
  /** Index of the branch a leaf belongs to; its own index for a branch. */
  branch: number
  /** Id in the IAB Content Taxonomy, version 1.0; left out where we are not certain. */
  iab?: string
}

/** Branch, its id, its leaves (with `=id`); then ten subjects in each that keywords are made of. */
const rows: readonly (readonly [branch: string, iab: string, leaves: string, subjects: string])[] = [
  [
    'science',
    'IAB15',
    'sky and space=IAB15-7,weather=IAB15-10,biology=IAB15-2',
    'telescope,star chart,eyepiece,meteor shower,rain radar,barometer,microscope,fossil,moon map,eclipse,tide table,rock sample,aurora,planet model,snow report,bird call,orchid,genome kit,wind gauge,sundial'
  ],
  [
    'nature',
    '',
    'wildlife,gardens=IAB10-4',
    'bird box,hedgehog,pond plant,nature reserve,seed mix,greenhouse,compost bin,rose bed,tree guide,wild flower,garden path,pruning saw,raised bed,bee hotel,badger,lawn care,rain barrel,herb pot,owl walk,mushroom'
  ],
  [
    'news',
    'IAB12',
    'world news,local news,politics',
    'election,council vote,budget talk,court case,street works,strike,harbour plan,census,school board,mayor,treaty,border post,press review,tax rise,housing act,bridge repair,rail strike,flood alert,village fair,museum vote'
  ],
  [
    'sport',
    'IAB17',
    'football,running,sailing',
    'football boots,match ticket,league table,running shoes,half marathon,training plan,dinghy,life jacket,rowing club,goal keeper,stopwatch,trail run,sail cloth,regatta,knee brace,sports bag,physio tape,referee,club scarf,interval run'
  ],
  [
    'cycling',
    '',
    'cargo bikes,road cycling',
    'cargo bike,bike lock,child seat,pannier,bike lane,brake pad,helmet,gravel bike,tyre lever,hub gear,bike light,saddle,chain oil,bike rack,rain cape,tandem,bell,folding bike,spoke key,bike tour'
  ],
  [
    'food',
    'IAB8',
    'cooking,baking,wine,recipes',
    'copper pan,sourdough,knife block,olive oil,rye flour,wine cellar,spice rack,soup pot,cake tin,pasta maker,coffee grinder,tea caddy,cheese board,pickling jar,pizza stone,bread oven,rice cooker,apron,corkscrew,jam recipe'
  ],
  [
    'travel',
    'IAB20',
    'city breaks,rail travel,islands',
    'night train,ferry ticket,city map,walking holiday,island hotel,rail pass,suitcase,guest house,tour guide,beach hut,travel adapter,campsite,hostel,cabin crew,passport cover,museum pass,harbour cruise,phrase book,mountain lodge,hand luggage'
  ],
  [
    'family',
    'IAB6',
    'babies,school years',
    'pram,car seat,school bag,bedtime story,baby food,night light,birthday cake,playground,nursery,lunch box,homework,swimming lesson,rain boots,toy box,nanny,bunk bed,first shoes,school bus,cradle,family doctor'
  ],
  [
    'home',
    'IAB10',
    'furnishing,repairs',
    'oak table,paint tin,bookshelf,curtain,spirit level,cordless drill,wall tile,floor lamp,wardrobe,sofa bed,wood stain,door hinge,kitchen tap,rug,mirror,ladder,attic room,wallpaper,radiator,tool box'
  ],
  [
    'technology',
    'IAB19',
    'phones,computing,photography',
    'phone case,laptop,camera lens,tripod,keyboard,router,memory card,monitor,headphones,charger,photo printer,smart speaker,solder iron,desk fan,web cam,drone,film scanner,tablet stand,power bank,old radio'
  ],
  [
    'business',
    'IAB3',
    'companies,starting up,business software',
    'invoice,payroll,trade fair,office chair,business card,supply chain,book keeping,shop lease,export,annual report,pitch deck,co-working,trade mark,stock room,label printer,van hire,till system,audit,meeting room,courier'
  ],
  [
    'money',
    'IAB13',
    'saving,home loans,insurance',
    'savings account,mortgage,pension,current account,credit card,share dealing,interest rate,home insurance,car loan,tax return,exchange rate,travel money,index fund,piggy bank,will writing,life insurance,budget planner,bond,deposit,remortgage'
  ],
  [
    'games',
    'IAB9-30',
    'puzzles,arcade',
    'word puzzle,crossword,number grid,card game,chess set,board game,tile game,jigsaw,quiz night,marble run,pinball,racing game,strategy game,dice,game pass,joystick,escape room,dominoes,riddle,brain teaser'
  ],
  [
    'music',
    '',
    'concerts,instruments',
    'concert ticket,guitar strings,piano lesson,vinyl record,drum kit,choir,music stand,violin bow,festival,sheet music,record player,amplifier,ukulele,band shirt,opera,brass band,metronome,jazz club,song book,microphone'
  ],
  [
    'languages',
    '',
    'learning kana,learning english',
    'kana chart,brush pen,grammar book,flash card,exchange partner,pronunciation,language course,dictionary,calligraphy,reading club,vocabulary list,subtitles,summer school,verb table,accent,ink stone,story reader,study abroad,spelling,translation'
  ],
  [
    'health',
    'IAB7',
    'sleep,fitness=IAB7-1',
    'yoga mat,mattress,sleep tracker,vitamin,back pain,dumbbell,eye test,hay fever,first aid,foot bath,gym bag,knee strap,hearing aid,herbal tea,massage,posture,sun cream,toothbrush,treadmill,water bottle'
  ],
  [
    'arts',
    'IAB1',
    'books=IAB1-1,stage,painting,humour',
    'novel,poetry,oil paint,easel,theatre ticket,sketch book,ballet,book club,gallery,audio book,sculpture,film club,water colour,picture frame,museum,pottery wheel,costume,crime story,linocut,reading lamp'
  ],
  [
    'motoring',
    'IAB2',
    'electric cars,vintage cars',
    'winter tyre,wall box,roof box,car wash,spark plug,car battery,tow bar,test drive,car lease,oil change,sat nav,classic car,dash cam,trailer,parking permit,car seat cover,hub cap,brake disc,toolkit,road tax'
  ],
  [
    'style',
    'IAB18',
    'clothing,beauty',
    'rain coat,wool scarf,leather boots,wrist watch,silk shirt,perfume,face cream,hair dryer,sun glasses,handbag,denim,linen dress,nail polish,beard oil,knitwear,umbrella,ear ring,sewing kit,shoe polish,lip balm'
  ],
  [
    'property',
    'IAB21',
    'buying a home,renting',
    'flat to rent,house survey,removal van,floor plan,estate agent,garden flat,show home,tenancy,key box,house boat,barn conversion,loft,parking space,storage unit,new build,land registry,shared flat,bungalow,holiday let,balcony'
  ],
  [
    'pets',
    'IAB16',
    'dogs,cats',
    'dog lead,cat tree,puppy school,pet food,bird cage,fish tank,vet,kennel,dog coat,litter tray,rabbit hutch,flea comb,cat flap,pet insurance,dog walker,chew toy,hamster wheel,pet carrier,pony,terrarium'
  ],
  [
    'careers',
    'IAB4',
    'job search',
    'job advert,cover letter,night shift,apprentice,salary survey,interview,notice period,work from home,career change,seasonal work,internship,union,trial day,uniform,shift plan,reference,temp agency,skills test,promotion,side job'
  ],
  [
    'education',
    'IAB5',
    'university,evening classes',
    'student loan,lecture,evening class,tuition,lab coat,open day,library card,exam,campus,dissertation,scholarship,study desk,school trip,tutor,course book,degree,term dates,graduation,reading list,science fair'
  ],
  [
    'adult',
    '',
    'dating',
    'dating app,late chat,speed dating,singles night,match maker,love letter,blind date,profile photo,dating coach,night club,lingerie,cocktail bar,love song,valentine,single cruise,chat room,video date,flirt guide,party game,hotel bar'
  ]
]

export const CATEGORIES: readonly Category[] = (() => {
  const list: Category[] = []
  for (const [name, iab, leaves] of rows) {
    const branch = list.length
    list.push({ index: branch, name, branch, ...(iab ? { iab } : {}) })
    for (const leaf of leaves.split(',')) {
      const [leafName, id] = leaf.split('=')
      list.push({ index: list.length, name: leafName, branch, ...(id ? { iab: id } : {}) })
    }
  }
  return list
})()

/** Branches, in order. */
export const BRANCHES: readonly Category[] = CATEGORIES.filter((category) => category.branch === category.index)
const categoryByName = new Map(CATEGORIES.map((category) => [category.name, category]))
export function findCategory(name: string): Category | undefined {
  return categoryByName.get(name)
}

/** A word that pages are found by. Words of one family are related. */
export interface Keyword {
  index: number
  word: string
  family: number
  /** Branch the subject belongs to. */
  branch: number
}

const VARIANTS = ['', ' price', ' review', ' guide', ' shop', ' second hand', ' repair'] as const

export const KEYWORDS: readonly Keyword[] = rows
  .flatMap(([, , , subjects], branch) => subjects.split(',').map((subject) => ({ subject, branch: BRANCHES[branch].index })))
  .flatMap(({ subject, branch }, family) => VARIANTS.map((variant) => ({ word: subject + variant, family, branch })))
  .map((keyword, index) => ({ index, ...keyword }))

/** Words in a family. */
export const FAMILY_SIZE = VARIANTS.length
const keywordByWord = new Map(KEYWORDS.map((keyword) => [keyword.word, keyword]))
export function findKeyword(word: string): Keyword | undefined {
  return keywordByWord.get(word.toLowerCase())
}

export const MUSIC_GENRES = [
  'acoustic',
  'ambient',
  'blues',
  'brass',
  'chamber',
  'choral',
  'classical',
  'country',
  'dance',
  'disco',
  'electronic',
  'fado',
  'folk',
  'funk',
  'gospel',
  'hip-hop',
  'indie',
  'jazz',
  'metal',
  'opera',
  'pop',
  'reggae',
  'rock',
  'soul',
  'world music'
] as const

/** How much read a page or show is, by fifths of its property's pages; most read first. */
export const POPULARITIES = ['most read', 'much read', 'middling', 'little read', 'least read'] as const

/** Who content is meant for; unrated where its maker has said nothing. */
export const RATINGS = ['everybody', 'teenagers up', 'adults only', 'unrated'] as const

/** What a line can leave out in one go. */
export const EXCLUSIONS = ['games', 'adult', 'unrated'] as const

/** A segment of people: interested in something, about to buy it, or in a stage of life. */
export interface Segment {
  index: number
  name: string
  kind: 'interest' | 'purchase intent' | 'life stage'
  /** Branch of what they care about; -1 for a life stage. */
  branch: number
}

const LIFE_STAGES = [
  'students',
  'first home',
  'newly weds',
  'new parents',
  'parents of schoolchildren',
  'parents of teenagers',
  'empty nest',
  'newly retired',
  'moving soon',
  'new in town',
  'job changers',
  'self-employed',
  'shift workers',
  'home workers',
  'frequent flyers',
  'daily commuters',
  'night owls',
  'early birds',
  'bargain hunters',
  'big spenders'
] as const

export const SEGMENTS: readonly Segment[] = (() => {
  const interests = CATEGORIES.map((category) => ({
    name: `interest: ${category.name}`,
    kind: 'interest' as const,
    branch: category.branch
  }))
  const intents = KEYWORDS.filter((keyword) => keyword.index % FAMILY_SIZE === 0 && keyword.family % 20 < 13).map((keyword) => ({
    name: `buying: ${keyword.word}`,
    kind: 'purchase intent' as const,
    branch: keyword.branch
  }))
  const stages = LIFE_STAGES.map((name) => ({ name, kind: 'life stage' as const, branch: -1 }))
  return [...interests, ...intents, ...stages].map((segment, index) => ({ index, ...segment }))
})()
const segmentByName = new Map(SEGMENTS.map((segment) => [segment.name, segment]))
export function findSegment(name: string): Segment | undefined {
  return segmentByName.get(name)
}
