"""Names of what there is to choose from: classes of cars, shapes of a house's day and of a tariff."""

CLASSES = {
    "small_hatch": "Small hatch",
    "compact_hatch": "Compact hatch",
    "family_saloon": "Family saloon",
    "tall_family": "Tall family car",
    "small_van": "Small van",
    "large_van": "Large van",
    "pick_up": "Heavy pick-up",
}
HOUSE_SHAPES = {"evening": "out by day, home in the evening", "home": "somebody home all day", "heating": "electric heating"}
DAYS = {
    "usual": "usual day",
    "errand": "short errand, out and back",
    "jam": "a jam of three quarters of an hour",
    "long": "long motorway day",
}
TARIFF_SHAPES = {
    "two": "two bands, cheap nights",
    "three": "three bands, dear evening",
    "winter": "dear winter mornings",
    "weekend": "cheap weekends",
    "dated": "another price each hour",
    "flat": "one price",
}
OUTLET_KINDS = {
    "household": "Household socket",
    "dryer": "Dryer outlet",
    "range": "Range outlet",
    "caravan": "Blue caravan socket",
    "wall_one": "Wall unit",
    "wall_three": "Wall unit, three phases",
}
PORTS = {
    "front_left": "front left",
    "front_right": "front right",
    "rear_left": "rear left",
    "rear_right": "rear right",
    "nose": "in the nose",
}
CHARGES = {"shallow": "to the limit, every time", "as_needed": "as much as the day needs"}
PLUGS = {"every": "every night", "pays": "when it pays for the walk", "must": "only when a day needs it"}
CONTROLS = {
    "hand": "plugging in: it starts at once",
    "timer": "a timer of the car or the wall unit",
    "linked": "this plan, linked to the charger",
}
TIE_BREAKS = {"late": "the latest", "early": "the earliest", "cool": "the coolest"}
