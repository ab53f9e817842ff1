"""Run the public vehicle simulator on its own battery-electric cars and keep a small table of the results.

Needs the extra `reference`; `make reference` installs it and calls this file. The cars are picked by program and
lettered, so no model name reaches our files. The simulator also carries the two public drive schedules (EPA UDDS and
HWFET, 40 CFR Part 86 App. I and Part 600 App. I), which are written as data of the core.
"""

import csv
import json
import time
import warnings
from importlib.metadata import version
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
TABLE = ROOT / "tests" / "reference" / "data" / "simulator.json"
SCHEDULES = ROOT / "frost_tally" / "core" / "drive" / "data"
NAMES = ("udds", "hwfet")


def electric_cars() -> list[Any]:
    """Every vehicle the simulator ships whose powertrain is battery-electric, heat management off."""
    import fastsim

    cars = []
    for resource in sorted(str(path) for path in fastsim.Vehicle.list_resources()):
        vehicle = fastsim.Vehicle.from_resource(resource)
        if "BEV" in vehicle.to_dict()["pt_type"]:
            cars.append(vehicle)
    return cars


def run(vehicle: Any, cycle: Any) -> dict[str, float]:
    """Energy from the pack, wheel energy and the wall-clock time of one simulated cycle."""
    import fastsim

    sim = fastsim.SimDrive(vehicle, cycle)
    begun = time.perf_counter()
    sim.run()
    seconds = time.perf_counter() - begun
    state = sim.to_dict()["veh"]
    pack = state["pt_type"]["BEV"]["res"]["state"]
    return {
        "terminal_kwh": pack["energy_out_electrical_joules"] / 3.6e6,
        "auxiliary_kwh": pack["energy_aux_joules"] / 3.6e6,
        "distance_km": state["state"]["dist_meters"] / 1000.0,
        "mass_kg": state["state"]["mass_kilograms"],
        "seconds": seconds,
    }


def coefficients(vehicle: Any) -> dict[str, Any]:
    """The inputs that our road model needs, in our units."""
    data = vehicle.to_dict()
    chassis, powertrain = data["chassis"], data["pt_type"]["BEV"]
    motor = powertrain["em"]["eff_interp_achieved"]["data"]
    gear = powertrain["transmission"]["eff_interp"]
    return {
        "drag_area_m2": chassis["drag_coef"] * chassis["frontal_area_square_meters"],
        "rolling_coefficient": chassis["wheel_rr_coef"],
        "rotating_mass_kg": chassis["num_wheels"]
        * chassis["wheel_inertia_kilogram_square_meters"]
        / chassis["wheel_radius_meters"] ** 2,
        "motor_kw": powertrain["em"]["pwr_out_max_watts"] / 1000.0,
        "motor_load": motor["grid"][0]["data"],
        "motor_efficiency": motor["values"]["data"],
        "transmission_efficiency": gear if isinstance(gear, float) else gear["Constant"],
        "auxiliary_kw": data["pwr_aux_base_watts"] / 1000.0,
    }


def write_schedules() -> None:
    import fastsim

    for name in NAMES:
        cycle = fastsim.Cycle.from_resource(f"{name}.csv").to_dict()
        with (SCHEDULES / f"{name}.csv").open("w", newline="", encoding="utf-8") as out:
            rows = csv.writer(out, lineterminator="\n")
            rows.writerow(["time_s", "speed_mps"])
            rows.writerows(
                [f"{t:.0f}", f"{v:.4f}"] for t, v in zip(cycle["time_seconds"], cycle["speed_meters_per_second"], strict=True)
            )


def main() -> None:
    warnings.simplefilter("ignore")
    import fastsim

    write_schedules()
    cars = []
    for letter, vehicle in zip("ABCDEFGH", electric_cars(), strict=False):
        results = {}
        for name in NAMES:
            runs = [run(vehicle.copy(), fastsim.Cycle.from_resource(f"{name}.csv")) for _ in range(5)]
            results[name] = {**runs[0], "seconds": min(each["seconds"] for each in runs)}
        cars.append({"car": letter, **coefficients(vehicle), "results": results})
    TABLE.write_text(json.dumps({"simulator": f"fastsim {version('fastsim')}", "cars": cars}, indent=1) + "\n")
    print(f"{TABLE.relative_to(ROOT)}: {len(cars)} electric cars, both schedules")


if __name__ == "__main__":
    main()
