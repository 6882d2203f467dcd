"""What is never done while starting and charging are tested, and what is done first: said once, shown wherever a step has it."""

NEUTRAL = "Gear in neutral or park, brake on, wheels chocked."
HANDS = "Hands, sleeves and leads clear of belt and fan."
NO_START = "Fuel or ignition off, so that it cannot start while you read."
SECONDS = "Crank for ten seconds at most, then let the starter cool for two minutes."
HYDROGEN = "Batteries give off hydrogen: no flame, no spark, and look away from it while clamps go on and off."
FROZEN = "Never boost or charge a frozen battery: it bursts."
BOOST = (
    "Boost with equal volts only: plus to plus first, the last clamp on bare metal of the engine, away from the battery. "
    "Switch lamps and blower on before the clamps come off, in reverse order."
)
TWENTY_FOUR = "24 V: two batteries in a row. Never boost it with 12 V, and never take 12 V from one of the two."
LEFT_ON = "Never lift a battery lead with the engine running: the charging voltage destroys modules."
ISOLATE = "Battery minus off before a spanner goes near the starter or the charging stud."
BY_HAND = "Battery minus off before the engine is turned by hand, gear in neutral."
UNFUSED = "Starter and charging cables are unfused: no ring, no watch, no spanner across to ground."
TAP = "Tap the starter's body with wood, once and lightly: never its solenoid cap, never from under a vehicle on a jack."
DO_NOT_WAKE = "Doors latched by hand, bonnet switch held, key away: whoever opens a door wakes the modules."
