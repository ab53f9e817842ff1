"""Labels and hints of the fields of each part, under the headings of its form and in their order; and what codes are called."""

from collections.abc import Mapping

from ...core.measures import CHOSEN
from ...core.parts import GUESSED, OWN
from .lists import CHARGES, CONTROLS, PLUGS, TIE_BREAKS
from .warm import WARM_UPS

Words = Mapping[str, Mapping[str, tuple[str, str]]]
"""By heading and column: label and hint."""
YES_NO = {"yes": "yes", "no": "no"}
CAR: Words = {
    "": {
        "name": ("What do you call it?", "Any name you like."),
        "chemistry": ("Battery chemistry", "The manual or the maker’s data sheet; LFP often asks for 100 % weekly."),
        "usable_kwh_new": ("Usable capacity when new", "The data sheet’s usable or net figure."),
        "ac_limit_kw": ("AC charging power", "The most the car takes from a wall unit."),
    },
    "Own numbers for the rest, filled in from the class": {
        "soh": ("Health today", "100 when new; your last test; or by its age."),
        "ac_phases": ("Phases it charges on", ""),
        "ac_limit_a": ("Current limit per phase", "If the manual gives one; empty: from the power."),
        "heat_pump": ("Heat pump", "Without one the heater is electric resistance."),
        "preheats": ("Warms its pack before departure", "If nobody knows, the plan warms the cabin only."),
        "warm_up": ("Warm up before departure", ""),
        "placard_kpa": ("Tyre placard pressure", "On the door post; cold."),
        "winter_tyres": ("Winter tyres", ""),
        "mass_kg": ("Mass with driver", "Registration paper plus {75 kg}."),
        "drag_area_m2": ("Drag area Cd·A", "Cd times frontal area; or the class’s."),
        "rolling_coefficient": ("Rolling coefficient", "At {25 °C}; the class value is fine."),
        "pack_heater_kw": ("Pack heater", "0 if it has none."),
        "drive_heat_to_c": ("Heats its pack on the way until", "Empty if it never does."),
        "drive_heat_from_c": ("Pack heated on the way below", "Empty: the same temperature."),
        "drive_heat_kw": ("Pack heated on the way with", "Empty: what its pack heater has."),
        "drive_heat_off": ("Pack heating can be switched off", "In the car’s menu."),
        "friction_share": ("Brakes blend discs in", "Share of the braking; 0 if it brakes with its motor."),
        "most_kw": ("Most power", "Registration paper; empty if not known."),
        "cabin_heater_kw": ("Cabin heater", "Heat, not electricity."),
    },
}
OUTLET: Words = {
    "The circuit": {
        "name": ("Name", "Wall unit, garage socket …"),
        "place_id": ("Place", ""),
        "code": ("Code rule", "Which rule your wiring follows."),
        "voltage_v": ("Voltage", "Phase to neutral: 230; 120 or 240 in North America."),
        "phases": ("Phases", ""),
        "breaker_a": ("Breaker", "Printed on it."),
    },
    "What may hold it back": {
        "shared_a": ("Others on the circuit draw", "0 for a dedicated circuit, as the codes want."),
        "shared_with": ("Shared with", "Such as a freezer; empty if dedicated."),
        "cable_a": ("Lead or wall unit maximum", "Printed on it; empty if it is not the limit."),
        "selector_a": ("Its selector is set to", "Empty if it has none."),
        "car_setting_a": ("The car itself is set to", "Empty if you never changed it."),
    },
    "Hours and lights": {
        "held_from": ("The house needs its power from", "Twice the same time: never."),
        "held_until": ("Needs it until", "Such as while the sauna or the stove is on."),
        "held_a": ("And leaves the car", "Under 6: no charging then. The unit must hold itself to it."),
        "lights": ("What the cable’s lights mean", "As its manual says: green, blinking … "),
    },
    "Its charge point": {"point": ("Its name here", "If it speaks the open protocol. Its password is made under Charge points.")},
    "For the bench": {
        "install_cost": ("Cost to have it installed", "From an offer; 0 if it is there, empty if you do not know.")
    },
}
PLACE: Words = {
    "Where it is": {
        "name": ("Place", "Any name you like."),
        "zone": ("Time zone", "Such as Europe/Oslo; clock changes follow it."),
        "altitude_m": ("Altitude", "A map knows it."),
    },
    "The garage": {"garage": ("The car stands", ""), "garage_heated_c": ("Garage temperature", "Only if it is heated.")},
    "Its climate": {
        "winters": ("Its winters are", "Until the log has temperatures of its own."),
        "january_c": ("Mean of January", "From a table of the climate; for yearly sums."),
        "july_c": ("Mean of July", "The same for July."),
    },
}
PERSON: Words = {
    "": {"name": ("Who looks", "Any name or nickname.")},
    "Units": {
        "distance_unit": ("Distances, speeds in", ""),
        "temperature_unit": ("Temperatures in", ""),
        "pressure_unit": ("Pressures in", ""),
        "weight_unit": ("Weights, heights in", ""),
        "hours": ("Hours", ""),
        "week_start": ("The week begins on", ""),
        "decimal_mark": ("Decimals", ""),
        "date_order": ("Dates", ""),
    },
    "Money": {
        "currency": ("Currency", "Three letters, such as EUR."),
        "per_contract": ("One unit of the contract’s money is", "1 if it is the same money."),
    },
    "E-mail": {
        "email": ("Address", "May stay empty."),
        "mailed": ("Reminders and faults of the night go there", "Nothing is sent before you say yes."),
    },
}
HABIT: Words = {
    "Where it is plugged in": {
        "outlet_id": ("Plugged into", ""),
        "tariff_id": ("Charges on", ""),
        "limit": ("Habit limit", "Where charging stops on ordinary nights."),
        "reserve": ("Reserve", "Kept at arrival."),
        "floor": ("Floor", "The lowest level you plan to see."),
        "warm_up": ("Warm up before departure", ""),
    },
    "A usual day": {
        "plug_in": ("You plug in at", ""),
        "depart": ("You leave at", ""),
        "days_a_week": ("Days a week you drive", "For yearly sums without a log."),
        "town_km": ("Town", "Of a usual day, there and back."),
        "country_km": ("Country road", "Of a usual day, there and back."),
        "motorway_km": ("Motorway", "Of a usual day, there and back."),
        "motorway_kmh": ("Your motorway speed", ""),
        "parked_h": ("Parked away", "Between the way out and the way home."),
        "people": ("People", "With the driver."),
    },
    "How its nights are carried out": {
        "charges": ("It is charged", ""),
        "plugs": ("The cable goes in", ""),
        "keeps": ("Each evening’s plan is kept", "By itself, when you open Tonight and its level is known."),
        "school": ("Among equal hours", "Late leaves the pack warm; cool spares it in summer."),
        "control": ("What starts it", "The car’s or the wall unit’s own timer, never both."),
        "timer_step": ("The timer takes", "Its smallest step."),
        "awake_from": ("Somebody is awake from", ""),
        "awake_until": ("Awake until", ""),
        "tag": ("Its card at the charge point", "What the point reads of it; empty if nobody knows."),
    },
}
BATTERY: Words = {
    "": {
        "new_on": ("New on", "The car’s first day. Empty: from the log’s pace."),
        "warranty_soh": ("Promised health", "As the warranty says it."),
        "warranty_years": ("For years", ""),
        "warranty_km": ("Or until", "Whichever comes first."),
    }
}
TWELVE_VOLT: Words = {
    "": {
        "fitted_on": ("Fitted on", "With the car, or since."),
        "kind": ("It is", "On its label; lithium rests at 13.2 to 13.4 V."),
        "tops_up": ("The pack tops it up while the car sleeps", "The manual says."),
        "boot": ("The boot opens without 12 V", ""),
    }
}
_KNOWN = {"unknown": "not known", "yes": "yes", "no": "no"}


def _labels(name: str, *quantities: str) -> dict[str, str]:
    """What somebody may choose, by the units that it leads to: "mi, mph"."""
    return {key: ", ".join(units[each].label for each in quantities) for key, units in CHOSEN[name].items()}


CODES: Mapping[str, Mapping[str, str]] = {
    "chemistry": {"NMC": "NMC or NCA", "LFP": "LFP"},
    "preheats": {"yes": "yes", "no": "no", "unknown": "not known"},
    "warm_up": WARM_UPS,
    "code": {"iec": "IEC (as rated)", "north_america": "North America (80 % of the breaker)"},
    "garage": {"outdoor": "outdoors", "unheated": "in an unheated garage", "heated": "in a heated garage"},
    "winters": {
        GUESSED: "not known yet",
        "mild": "mild, mostly above freezing",
        "cold": "cold, some degrees of frost",
        "hard": "hard, more than ten below",
        OWN: "as two means of its own say",
    },
    "distance_unit": _labels("distance", "distance", "speed"),
    "temperature_unit": _labels("temperature", "temperature"),
    "pressure_unit": _labels("pressure", "pressure"),
    "weight_unit": _labels("weight", "mass", "height"),
    "hours": {"24": "22:30", "12": "10:30 pm"},
    "week_start": {"mon": "Monday", "sun": "Sunday"},
    "decimal_mark": {".": "1.5", ",": "1,5"},
    "date_order": {"dmy": "15 January 2027", "mdy": "January 15, 2027", "ymd": "2027-01-15"},
    "kind": {"unknown": "not known", "lead": "lead", "lithium": "lithium"},
    "tops_up": _KNOWN,
    "boot": _KNOWN,
    "charges": CHARGES,
    "plugs": PLUGS,
    "school": TIE_BREAKS,
    "control": CONTROLS,
    "timer_step": {str(each): f"{each} min" for each in (5, 10, 15, 30)},
}
"""What the codes of a column are called; one without words is called as it is."""
