/**
 * What a newcomer may not know, as a plumber would say it. A term is looked up by the word that stands on the screen.
 */
export const GLOSSARY = {
  'anode rod':
    'A rod of magnesium or aluminum that corrodes in place of the steel. When it is gone, the tank itself is next.',
  'air shutter': 'A ring or plate at the burner’s throat: more air, less yellow.',
  'base screen': 'Keeps dust from the air that the burner draws.',
  'backup wrench': 'The second wrench: it holds the part that must not turn while the first one turns the other.',
  'bare wire': 'The core of an anode rod where its metal is gone. From {length_mm:100} on the rod is changed.',
  'cold-water sandwich': 'A slug of cold between two draws of hot, as a tankless heater starts anew.',
  condensing: 'A heater that cools its exhaust until it drips: more heat from the gas, and sour water to drain.',
  'closed system':
    'A house from which heated water cannot push back into the street: a check valve or regulator stands in its way.',
  creep: 'Pressure that rises while nobody draws water. While the heater fires: expansion. Otherwise: the regulator.',
  'differential pressure valve':
    'In a small tankless heater: running water moves it, it opens the gas, its micro-switch makes the spark.',
  'dielectric union':
    'A joint that insulates steel from copper, so that neither eats the other. A nipple does the same.',
  'discharge line':
    'The pipe from the relief valve to where hot water hurts nobody: falling, open at its end, never capped.',
  'dip tube': 'The pipe inside a tank that leads the cold to its floor. Broken, the hot water is gone soon.',
  descale: 'Circulating acid through a tankless heater to dissolve the lime on its exchanger.',
  'drip leg': 'A dead end of the gas line that catches dirt and water.',
  'drip loop': 'A sag in a wire that sheds water before it reaches the terminals.',
  'draft hood': 'The gap above a gas tank where room air joins its exhaust. Exhaust that comes out there is deadly.',
  'expansion tank':
    'A small vessel with air behind a rubber bladder, which takes up water that grows when it is heated.',
  'flame rod': 'Proves the flame: current runs through it. Dirty, the burner lights and goes out after seconds.',
  'flame arrestor': 'A plate that lets air in to the burner and no flame out.',
  'full-bore valve': 'As wide open as its pipe (full port). A ball does it in a quarter turn; a gate’s wedge sticks.',
  'fuse link': 'Melts once when it gets too hot, and is renewed. The over-temperature cut-out (limit) can be reset.',
  flush: 'Washing out what has settled on the floor of a tank, through its drain.',
  'gas control': 'Thermostat and gas valve in one. Vacation and pilot are its lowest settings.',
  'hot-surface igniter': 'Glows until the gas lights.',
  hybrid: 'A heat pump on a tank, with elements for when it is not enough.',
  inducer: 'The fan that draws the exhaust; its vacuum switch proves that it does.',
  indirect: 'A tank that a boiler heats through a coil.',
  kettling: 'The rumble of water that boils under a bed of deposit.',
  'leak-down': 'Pressure that falls with the cold shut and nothing running: water is lost somewhere.',
  'mixing valve': 'Blends cold into the hot so that no faucet scalds; also called tempering valve.',
  'on-demand mode': 'Heating only while water runs, without the mixing valve.',
  hardness: 'Calcium and magnesium in the water, told as calcium carbonate. What is hard when cold falls out when hot.',
  'left off': 'A heater that must not run until somebody has mended what is named, tagged at its dial or breaker.',
  likelihood: 'How sure the forecast is: the wide band holds four cases of five, the line in it is the middle one.',
  'open issue': 'Something at a heater or site that is not in order, kept until somebody has seen it put right.',
  precharge: 'The air pressure of an expansion tank without water on it. It is set to the house’s static pressure.',
  'price book': 'What each service and part costs, from which quotes are made.',
  orifice: 'The drilled jet that measures the gas.',
  'P10 and P90': 'Nine of ten times the true figure is above P10, nine of ten times below P90: together four in five.',
  recovery: 'How long a tank takes to be hot again after it was drawn empty.',
  'relief valve':
    'The temperature and pressure (T&P) relief valve: it opens before a tank can burst. Stuck, nothing protects you.',
  sediment: 'What settles on the floor of a tank: lime, sand and rust. It rumbles, buries the drain and eats gas.',
  scale: 'Lime that has grown onto a hot wall. It makes a heater hotter inside and cooler at the faucet.',
  'Schrader valve': 'The tire-type air valve of an expansion tank.',
  season: 'All visits of the coming months, each put into a week so that no week holds more hours than there are.',
  setpoint: 'The temperature on the dial. Each {temperature_k:10} more about doubles what falls out of hard water.',
  stacking: 'Hot above, cold below (stratification). Many short draws stack ever hotter water at the top of a tank.',
  'static pressure': 'The pressure of the house while nobody draws. {pressure_kpa:350} to {pressure_kpa:420} is usual.',
  thermocouple: 'Makes some millivolts in the pilot’s flame and holds the gas open; a thermopile makes hundreds.',
  'flow switch': 'Sees that water runs and starts the burner of a tankless heater.',
  'thermal expansion': 'Water grows by two percent from cold to hot. With no room for it the pressure rises.',
  'time window': 'Between which times a customer was told that we arrive.',
  'vacuum lock': 'A sealed tank that will not empty: no air comes in behind the water.',
  'water test': 'Hardness and the like as somebody measured them, with strips, drops or in a laboratory.',
} as const

export type Term = keyof typeof GLOSSARY
