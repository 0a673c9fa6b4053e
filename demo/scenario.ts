/** The Corrie Institute: who and what there is. All of it is made up; only the cities are real, for their zones. */

export const SITES = [
  { name: 'Innsbruck', zone: 'Europe/Vienna', region: 'AT-7', latitude: 47.27, longitude: 11.39 },
  { name: 'Nairobi', zone: 'Africa/Nairobi', region: 'KE', latitude: -1.29, longitude: 36.82 },
  // Of its public holidays none are known: it keeps its own.
  { name: 'Kathmandu', zone: 'Asia/Kathmandu', region: null, latitude: 27.72, longitude: 85.32 },
  { name: 'Dunedin', zone: 'Pacific/Auckland', region: 'NZ-OTA', latitude: -45.87, longitude: 170.5 },
  { name: 'Santiago', zone: 'America/Santiago', region: 'CL', latitude: -33.45, longitude: -70.67 },
  { name: 'St. John’s', zone: 'America/St_Johns', region: 'CA-NL', latitude: 47.56, longitude: -52.71 },
] as const

/** What is done out of doors, at the site of whoever organizes it. */
export const OUT_OF_DOORS = ['Field kit inventory']

/** Days on which sites are closed, by how many days they are after the Monday of the demo's week. */
export const CLOSED_DAYS = [
  { site: 'Kathmandu', name: 'Staff outing to the upper huts', after: 32, days: 1, shut: false },
  { site: 'Innsbruck', name: 'Floors are waxed', after: 40, days: 2, shut: true },
] as const

export const TEAMS = [
  'Ice Core',
  'Avalanche Forecast',
  'Instruments',
  'Field Logistics',
  'Data',
  'Office',
] as const

/** Weekly working patterns: weekdays and spans in minutes since midnight. */
export const PATTERNS = {
  usual: { days: [1, 2, 3, 4, 5], spans: [[480, 1020]] },
  late: { days: [1, 2, 3, 4, 5], spans: [[570, 1110]] },
  lunch: {
    days: [1, 2, 3, 4, 5],
    spans: [
      [480, 720],
      [780, 1020],
    ],
  },
  mornings: { days: [1, 2, 3, 4], spans: [[480, 780]] },
  threeDays: { days: [2, 3, 4], spans: [[510, 1020]] },
  sunday: { days: [7, 1, 2, 3, 4], spans: [[540, 1020]] },
  night: { days: [1, 2, 3, 4, 5], spans: [[1200, 1680]] },
} as const satisfies Record<
  string,
  { days: readonly number[]; spans: readonly (readonly [number, number])[] }
>

type Pattern = keyof typeof PATTERNS
type Site = (typeof SITES)[number]['name']
type Team = (typeof TEAMS)[number]
type Shares = 'busy' | 'headlines' | 'team' | 'nothing'

export interface PersonPlan {
  readonly name: string
  readonly role: string
  readonly site: Site
  readonly team: Team
  readonly pattern: Pattern
  readonly shares: Shares
  readonly leading?: number
}

const plan = (
  site: Site,
  team: Team,
  name: string,
  role: string,
  pattern: Pattern = 'usual',
  shares: Shares = 'busy',
  leading?: number,
): PersonPlan => ({ name, role, site, team, pattern, shares, ...(leading ? { leading } : {}) })

export const PEOPLE: readonly PersonPlan[] = [
  plan('Innsbruck', 'Office', 'Ilse Brandacher', 'coordinator', 'usual', 'headlines', 1),
  plan('Innsbruck', 'Office', 'Henrike Aasland', 'director', 'usual', 'busy', 2),
  plan('Innsbruck', 'Ice Core', 'Matteo Ruprechter', 'ice-core laboratory', 'lunch', 'team', 3),
  plan('Nairobi', 'Data', 'Wanjiru Kamande', 'glacier monitoring', 'usual', 'headlines', 4),
  plan('Kathmandu', 'Field Logistics', 'Tashi Lhendup', 'high stations', 'late', 'busy', 5),
  plan('Dunedin', 'Instruments', 'Aroha Pene', 'instruments', 'usual', 'team', 6),
  plan('Santiago', 'Avalanche Forecast', 'Catalina Reyes', 'avalanche forecast', 'late', 'busy', 7),
  plan('St. John’s', 'Ice Core', 'Declan Furey', 'sea ice', 'usual', 'busy', 8),
  plan('Innsbruck', 'Office', 'Jorunn Tveit', 'reception', 'mornings', 'headlines'),
  plan('Innsbruck', 'Office', 'Dragana Vuković', 'accounts', 'threeDays'),
  plan('Innsbruck', 'Office', 'Severin Plattner', 'personnel', 'lunch', 'nothing'),
  plan('Innsbruck', 'Ice Core', 'Annika Sjölund', 'isotopes', 'usual', 'team'),
  plan('Innsbruck', 'Ice Core', 'Bertrand Quemener', 'thin sections', 'lunch'),
  plan('Innsbruck', 'Ice Core', 'Chiara Valdagno', 'firn physics'),
  plan('Innsbruck', 'Ice Core', 'Ødger Lund', 'drilling', 'late'),
  plan('Innsbruck', 'Ice Core', 'Zsófia Halmos', 'dust layers', 'threeDays'),
  plan('Innsbruck', 'Avalanche Forecast', 'Lukas Innerebner', 'forecaster'),
  plan('Innsbruck', 'Avalanche Forecast', 'Mirela Popescu', 'forecaster', 'night'),
  plan('Innsbruck', 'Avalanche Forecast', 'Tomasz Wrona', 'snowpack models', 'usual', 'headlines'),
  plan('Innsbruck', 'Avalanche Forecast', 'Eszter Bakonyi', 'field observer', 'lunch'),
  plan('Innsbruck', 'Instruments', 'Gernot Fallmerayer', 'weather stations'),
  plan('Innsbruck', 'Instruments', 'Yusuf Demirel', 'electronics', 'late'),
  plan('Innsbruck', 'Instruments', 'Hanneke de Wit', 'calibration', 'mornings'),
  plan('Innsbruck', 'Data', 'Pooja Raghavan', 'data engineer'),
  plan('Innsbruck', 'Data', 'Marek Dvořák', 'modelling', 'late', 'headlines'),
  plan('Innsbruck', 'Data', 'Iñaki Etxarri', 'remote sensing'),
  plan('Innsbruck', 'Field Logistics', 'Resi Oberhofer', 'huts and ropeways', 'usual', 'headlines'),
  plan('Innsbruck', 'Field Logistics', 'Kaspar Thöni', 'vehicles', 'lunch'),
  plan('Nairobi', 'Data', 'Otieno Obura', 'gauges'),
  plan('Nairobi', 'Data', 'Achieng Adoyo', 'mapping', 'lunch'),
  plan('Nairobi', 'Field Logistics', 'Mwangi Gathogo', 'expeditions'),
  plan('Nairobi', 'Field Logistics', 'Halima Warsame', 'permits', 'sunday'),
  plan('Nairobi', 'Instruments', 'Kiprop Chelimo', 'radiation sensors'),
  plan('Nairobi', 'Office', 'Njeri Muthoni', 'site office', 'usual', 'headlines'),
  plan('Nairobi', 'Avalanche Forecast', 'Baraka Lekuton', 'mountain weather'),
  plan('Kathmandu', 'Field Logistics', 'Pema Dolkar', 'porters and permits', 'sunday'),
  plan('Kathmandu', 'Field Logistics', 'Bishnu Adhikari', 'helicopter liaison', 'sunday'),
  plan('Kathmandu', 'Instruments', 'Sarita Maharjan', 'high stations'),
  plan('Kathmandu', 'Data', 'Dipesh Joshi', 'hydrology', 'late'),
  plan('Kathmandu', 'Avalanche Forecast', 'Nima Yangzom', 'observer', 'night'),
  plan('Kathmandu', 'Office', 'Gita Shrestha', 'site office', 'usual', 'headlines'),
  plan('Kathmandu', 'Ice Core', 'Karma Wangdi', 'core storage'),
  plan('Dunedin', 'Instruments', 'Wiremu Hohepa', 'radar'),
  plan('Dunedin', 'Instruments', 'Isla Drummond', 'thermal cameras', 'late'),
  plan('Dunedin', 'Instruments', 'Sione Fifita', 'workshop', 'mornings'),
  plan('Dunedin', 'Ice Core', 'Mele Tupou', 'ice chemistry'),
  plan('Dunedin', 'Data', 'Callum Birnie', 'time series', 'lunch'),
  plan('Dunedin', 'Office', 'Ngaire Walker', 'site office', 'usual', 'headlines'),
  plan('Dunedin', 'Avalanche Forecast', 'Hemi Parata', 'forecaster'),
  plan('Santiago', 'Avalanche Forecast', 'Joaquín Lizana', 'forecaster'),
  plan('Santiago', 'Avalanche Forecast', 'Renata Cañulef', 'field observer', 'late', 'nothing'),
  plan('Santiago', 'Data', 'Emilio Vergara', 'satellites'),
  plan('Santiago', 'Instruments', 'Paz Orellana', 'seismics', 'threeDays'),
  plan('Santiago', 'Field Logistics', 'Nahuel Ibarra', 'mules and trucks'),
  plan('Santiago', 'Office', 'Ximena Rojo', 'site office', 'lunch', 'headlines'),
  plan('St. John’s', 'Ice Core', 'Maeve Kinsella', 'sea ice', 'late'),
  plan('St. John’s', 'Data', 'Anouk Tremblay-Roy', 'drift models'),
  plan('St. John’s', 'Instruments', 'Silas Noseworthy', 'buoys'),
  plan('St. John’s', 'Field Logistics', 'Aputsiaq Olsvig', 'boats', 'usual'),
  plan('St. John’s', 'Office', 'Bridget Hanrahan', 'site office', 'mornings', 'headlines'),
]

export interface PlacePlan {
  readonly name: string
  readonly kind: 'room' | 'lab' | 'desk' | 'equipment'
  readonly site: Site
  readonly floor: string
  readonly seats: number
  readonly features: Record<string, number>
  readonly about: string
  readonly turnaround?: number
  readonly trained?: boolean
  readonly approval?: boolean
  readonly hours?: readonly [number, number]
  readonly weekdays?: readonly number[]
  readonly steward?: string
}

const WEEK = [1, 2, 3, 4, 5]

const room = (
  site: Site,
  name: string,
  floor: string,
  seats: number,
  features: Record<string, number>,
  about = '',
): PlacePlan => ({
  name,
  kind: 'room',
  site,
  floor,
  seats,
  features,
  about,
  hours: [360, 1320],
  weekdays: site === 'Kathmandu' ? [7, ...WEEK] : WEEK,
  ...(site === 'Innsbruck' ? { steward: 'Ilse Brandacher' } : {}),
})

const units = (count: number, name: string, about: string, site: Site = 'Innsbruck'): PlacePlan[] =>
  Array.from({ length: count }, (_, i) => ({
    name: count === 1 ? name : `${name} ${i + 1}`,
    kind: 'equipment' as const,
    site,
    floor: 'store',
    seats: 0,
    features: {},
    about,
    steward: 'Aroha Pene',
  }))

/** The Loft: 24 desks in four rows of six; the outer rows stand by the windows, the back corner is quiet. */
const desks: PlacePlan[] = Array.from({ length: 24 }, (_, i) => {
  const row = Math.floor(i / 6)
  return {
    name: `Loft ${'ABCD'[row]}${(i % 6) + 1}`,
    kind: 'desk' as const,
    site: 'Innsbruck' as const,
    floor: 'Loft',
    seats: 1,
    features: {
      ...(i % 3 === 0 ? { 'height-adjustable': 1 } : {}),
      ...(i % 2 === 0 ? { screens: 2 } : { screens: 1 }),
      ...(row === 0 || row === 3 ? { window: 1 } : {}),
      ...(row === 3 && i % 6 > 2 ? { quiet: 1 } : {}),
    },
    about: '',
    weekdays: WEEK,
    hours: [360, 1320],
    steward: 'Ilse Brandacher',
  }
})

export const PLACES: readonly PlacePlan[] = [
  room('Innsbruck', 'Bergschrund', '1', 4, { screens: 1 }, 'Small and quiet, behind the library.'),
  room('Innsbruck', 'Icefall', '1', 6, { screens: 1, camera: 1 }),
  room('Innsbruck', 'Moraine', '1', 8, { screens: 1, camera: 1, 'step-free': 1 }),
  room(
    'Innsbruck',
    'Serac',
    '2',
    8,
    { screens: 2, camera: 1, 'step-free': 1 },
    'Two screens: the far sites on one, the slides on the other.',
  ),
  room('Innsbruck', 'Col', '2', 12, { screens: 2, camera: 1, 'step-free': 1 }),
  room('Innsbruck', 'Firn', '2', 16, { screens: 2, camera: 2, 'step-free': 1 }),
  room('Innsbruck', 'Névé Hall', '0', 60, { screens: 2, camera: 2, 'step-free': 1 }, 'The lecture hall.'),
  room('Nairobi', 'Nunatak', '3', 8, { screens: 1, camera: 1 }),
  room('Nairobi', 'Tarn', '3', 4, { screens: 1 }),
  room('Kathmandu', 'Arête', '1', 6, { screens: 1, camera: 1 }),
  room('Kathmandu', 'Crevasse', '1', 10, { screens: 1, camera: 1 }),
  room('Dunedin', 'Drumlin', 'G', 6, { screens: 1, camera: 1, 'step-free': 1 }),
  room('Dunedin', 'Esker', 'G', 12, { screens: 2, camera: 1, 'step-free': 1 }),
  room('Santiago', 'Cirque', '5', 8, { screens: 1, camera: 1 }),
  room('Santiago', 'Ogive', '5', 4, { screens: 1 }),
  room('St. John’s', 'Kame', '1', 6, { screens: 1, camera: 1 }),
  room('St. John’s', 'Trimline', '1', 10, { screens: 2, camera: 1, 'step-free': 1 }),
  {
    name: 'Cold lab −20',
    kind: 'lab',
    site: 'Innsbruck',
    floor: '−1',
    seats: 3,
    features: { 'band saw': 1 },
    about: 'At −20 °C. Trained people only; half an hour to cool down again after each use.',
    turnaround: 30,
    trained: true,
    hours: [360, 1320],
    weekdays: WEEK,
    steward: 'Matteo Ruprechter',
  },
  {
    name: 'Cold lab −5',
    kind: 'lab',
    site: 'Innsbruck',
    floor: '−1',
    seats: 4,
    features: {},
    about: 'At −5 °C. Trained people only.',
    turnaround: 15,
    trained: true,
    hours: [360, 1320],
    weekdays: WEEK,
    steward: 'Matteo Ruprechter',
  },
  {
    name: 'Thin-section lab',
    kind: 'lab',
    site: 'Innsbruck',
    floor: '−1',
    seats: 2,
    features: { microscope: 2 },
    about: 'Matteo approves each use.',
    approval: true,
    hours: [420, 1200],
    weekdays: WEEK,
    steward: 'Matteo Ruprechter',
  },
  ...desks,
  ...units(4, 'Thermal drone', 'With two batteries and a case.'),
  ...units(3, 'Core drill', 'Nine-metre string.'),
  ...units(6, 'GNSS receiver', 'Tripod in the blue bag.'),
  ...units(2, 'Snow-radar sledge', 'Needs the van to be moved.'),
  ...units(1, 'Field van', 'Six seats and a roof rack.'),
]

/** Who has been trained for the cold labs. */
export const TRAINED = [
  'Matteo Ruprechter',
  'Annika Sjölund',
  'Bertrand Quemener',
  'Chiara Valdagno',
  'Ødger Lund',
  'Zsófia Halmos',
] as const

/** Trained, too, and seldom there. */
export const TRAINED_BESIDES = ['Aroha Pene'] as const

/** What each team's people do with their days, for titles of entries. */
export const WORK: Record<Team, readonly string[]> = {
  'Ice Core': [
    'Core cutting',
    'Isotope run',
    'Melt-layer count',
    'Freezer inventory',
    'Firn density bench',
    'Core logging',
  ],
  'Avalanche Forecast': [
    'Bulletin drafting',
    'Snow-pit review',
    'Model verification',
    'Hazard map edits',
    'Observer call',
  ],
  Instruments: ['Sensor calibration', 'Mast drawings', 'Radar test', 'Battery rounds', 'Firmware freeze'],
  'Field Logistics': [
    'Hut provisioning',
    'Permit papers',
    'Rope inspection',
    'Load lists',
    'Flight briefing',
  ],
  Data: ['Gap filling', 'Pipeline review', 'Mass-balance run', 'Map production', 'Archive ingest'],
  Office: ['Travel claims', 'Visitor papers', 'Budget lines', 'Site news', 'Supplier visit'],
}

/** How Ilse sorts what she does: a category, its tone of the palette, and the titles in it. */
export const CATEGORIES = [
  { name: 'Office', tone: 6, titles: ['Post and travel', 'Travel claims', 'Site news', 'Site offices'] },
  {
    name: 'Field',
    tone: 3,
    titles: ['Field kit inventory', 'Winter field safety', 'Drone loan for the spring traverse'],
  },
  { name: 'Money', tone: 4, titles: ['Budget lines', 'Budget for the winter season', 'Reports due'] },
  {
    name: 'Visitors',
    tone: 1,
    titles: ['Visitor papers', 'Visit of Lodestar Instruments', 'Supplier visit'],
  },
] as const

/** What is to be done: whose it is and to whom they gave it, what, in how many days at which minute, how long it takes. */
export const TODOS: readonly {
  readonly owner: string
  readonly to?: string
  readonly title: string
  readonly days: number | null
  readonly minute?: number
  readonly minutes?: number
  readonly urgent?: boolean
  readonly percent?: number
}[] = [
  { owner: 'Ilse Brandacher', title: 'Book the bus to the hut', days: -3, minutes: 15 },
  {
    owner: 'Ilse Brandacher',
    title: 'Send the visitor papers to Lodestar',
    days: 1,
    minute: 720,
    urgent: true,
  },
  { owner: 'Ilse Brandacher', title: 'Seating for the winter dinner', days: 4, minutes: 45, percent: 30 },
  { owner: 'Ilse Brandacher', to: 'Matteo Ruprechter', title: 'Key list of the cold labs', days: 2 },
  { owner: 'Henrike Aasland', to: 'Ilse Brandacher', title: 'Figures for the board', days: 3, minutes: 60 },
  { owner: 'Ilse Brandacher', title: 'Frame the ridge photograph', days: null },
  { owner: 'Matteo Ruprechter', title: 'Order saw blades', days: 4, minutes: 15 },
  { owner: 'Matteo Ruprechter', title: 'Label the Firn cores', days: 1, minutes: 90, percent: 60 },
  { owner: 'Tashi Lhendup', title: 'Permit papers for the high station', days: 7, minutes: 60 },
  { owner: 'Wanjiru Kamande', title: 'Batteries for the mast', days: 2, minutes: 30 },
  { owner: 'Aroha Pene', title: 'Test the spare receivers', days: 3, minutes: 45 },
]
