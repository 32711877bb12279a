/** What a newcomer may not know, as a plumber would say it. A term is looked up by the word that stands on the screen. */
export const GLOSSARY = {
  'anode rod':
    'A rod of magnesium or aluminum that corrodes in place of the steel. When it is gone, the tank itself is next.',
  'bare wire': 'The core of an anode rod where its metal is gone. From {length_mm:100} on the rod is changed.',
  'closed system':
    'A house from which heated water cannot push back into the street: a check valve or regulator stands in its way.',
  creep: 'Pressure that rises while nobody draws water. While the heater fires: expansion. Otherwise: the regulator.',
  'dip tube': 'The pipe inside a tank that leads the cold to its floor. Broken, the hot water is gone soon.',
  descale: 'Circulating acid through a tankless heater to dissolve the lime on its exchanger.',
  'draft hood': 'The gap above a gas tank where room air joins its exhaust. Exhaust that comes out there is deadly.',
  'expansion tank':
    'A small vessel with air behind a rubber bladder, which takes up water that grows when it is heated.',
  flush: 'Washing out what has settled on the floor of a tank, through its drain.',
  hardness: 'Calcium and magnesium in the water, told as calcium carbonate. What is hard when cold falls out when hot.',
  'left off': 'A heater that must not run until somebody has mended what is named, tagged at its dial or breaker.',
  likelihood: 'How sure the forecast is: the wide band holds four cases of five, the line in it is the middle one.',
  'open issue': 'Something at a heater or site that is not in order, kept until somebody has seen it put right.',
  precharge: 'The air pressure of an expansion tank without water on it. It is set to the house’s static pressure.',
  'price book': 'What each service and part costs, from which quotes are made.',
  'P10 and P90': 'Nine of ten times the true figure is above P10, nine of ten times below P90: together four in five.',
  recovery: 'How long a tank takes to be hot again after it was drawn empty.',
  'relief valve':
    'The temperature and pressure (T&P) relief valve: it opens before a tank can burst. Stuck, nothing protects you.',
  sediment: 'What settles on the floor of a tank: lime, sand and rust. It rumbles, buries the drain and eats gas.',
  scale: 'Lime that has grown onto a hot wall. It makes a heater hotter inside and cooler at the faucet.',
  season: 'All visits of the coming months, each put into a week so that no week holds more hours than there are.',
  setpoint: 'The temperature on the dial. Each {temperature_k:10} more about doubles what falls out of hard water.',
  'static pressure': 'The pressure of the house while nobody draws. {pressure_kpa:350} to {pressure_kpa:420} is usual.',
  'thermal expansion': 'Water grows by two percent from cold to hot. With no room for it the pressure rises.',
  'time window': 'Between which times a customer was told that we arrive.',
  'water test': 'Hardness and the like as somebody measured them, with strips, drops or in a laboratory.',
} as const

export type Term = keyof typeof GLOSSARY
