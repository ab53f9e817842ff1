"""Run the public libraries of cells and keep two small tables of what they say.

Needs the extra `reference`; `make reference` installs it and calls this file. From the battery-life library every NMC, NCA and LFP
cell with a graphite anode, picked by program and lettered, so that no maker's name reaches our files. `cells.json` of the core has their
rates, by themselves: what eight years of standing take by temperature and level, and what eight years of the same day take by temperature,
depth and mean level, told apart by the library's own states. The tests' table has whole lives, which those rates must lead back to, and
from the battery-modelling library the open-circuit voltage of its published parameter sets, by paper.
"""

import json
import time
import warnings
from collections.abc import Sequence
from importlib.metadata import metadata, version
from multiprocessing import Pool
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
TABLE, RATES = ROOT / "tests" / "reference" / "data" / "cells.json", ROOT / "frost_tally" / "core" / "battery" / "cells.json"
YEARS, TEMPS_C, HIGH, LOW = 8, (10.0, 20.0, 30.0), 0.8, 0.5
DAYS, STEP_DAYS, FULL_CYCLES = 365 * YEARS, 4, 700.0
STANDING_C = (-20.0, -10.0, -5.0, 0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 45.0)
STANDING_SOC = tuple(round(0.05 * i, 2) for i in range(21))
CYCLING_C = (-20.0, -15.0, -10.0, -5.0, 0.0, 5.0, 10.0, 15.0, 20.0, 30.0, 40.0)
CYCLING_DOD = (0.02, 0.05, 0.1, 0.2, 0.3, 0.45, 0.6, 0.8, 1.0)
CYCLING_SOC = (0.2, 0.35, 0.5, 0.65, 0.8, 0.95)
LIVES = ((0.8, 0.2, 5.0, 10.0), (1.0, 0.2, 5.0, 10.0), (0.7, 0.4, 5.0, 10.0), (0.9, 0.4, 18.0, 9.0), (0.5, 0.15, 10.0, 8.0))
"""Whole lives to compare with: level at the top of each day and its depth, mean temperature of the year and half of its swing (°C)."""
SETS = ("Mohtat2020", "Ecker2015", "Chen2020")
if not hasattr(np, "trapz"):  # the battery-life library calls the trapezoidal rule by the name it had
    np.trapz = np.trapezoid  # type: ignore[attr-defined]
CHEMISTRIES = {"Nmc": "NMC", "NMC": "NMC", "Nca": "NMC", "NCA": "NMC", "Lfp": "LFP"}


def day(days: int, high: float = HIGH, low: float = LOW) -> tuple[np.ndarray, np.ndarray]:
    """Time (s) and level of days: down from high to low by day, standing low, charged late, on the hour."""
    hours = np.arange(24 * days + 1)
    clock, half = (hours + 7) % 24, (high - low) / 2
    level = np.interp(clock, [0, 4, 7, 8, 17, 18, 24], [low, low, high, high - half, high - half, low, low])
    return hours * 3600.0, level


def lost(cell: Any, kind: str) -> float:
    """Share lost by the library's states of one kind ("_t": standing, "_EFC": cycling), without what only new cells gain."""
    states = {name: values[-1] for name, values in cell.states.items() if name.startswith("qLoss") and "BreakIn" not in name}
    return float(sum(value for name, value in states.items() if name.endswith(kind)))


def stood(model: Any, temp_c: float, soc: float, days: float) -> float:
    """What standing takes in one step of the library."""
    cell = model()
    cell.update_battery_state(np.array([0.0, 43200.0, 86400.0]) * days, np.full(3, soc), np.full(3, temp_c))
    return lost(cell, "_t")


def cycled(model: Any, temp_c: float, dod: float, mean_soc: float) -> tuple[float, float, float]:
    """Eight years of the same day: share lost by cycling, full cycles, and the power of cycles by which it grew."""
    low = min(max(mean_soc - dod / 2, 0.0), 1.0 - dod)
    at, level = day(STEP_DAYS, low + dod, low)
    cell = model()
    cell.update_battery_state(at, level, np.full(len(at), temp_c))
    quarter = 0.0
    for step in range(DAYS // STEP_DAYS - 1):
        cell.update_battery_state_repeating(False)
        if step == DAYS // STEP_DAYS // 4:
            quarter, then = lost(cell, "_EFC"), float(cell.stressors["efc"][-1])
    whole, turned = lost(cell, "_EFC"), float(cell.stressors["efc"][-1])
    power = np.log(whole / quarter) / np.log(turned / then) if min(whole, quarter) > 1e-6 else np.nan
    return whole, turned, float(power)


def rates(number: int) -> dict[str, Any]:
    """A cell's two tables, and the powers by which they grow in ordinary weather and use."""
    model = cells()[number][1]
    eight, two = (np.array([[stood(model, t, s, days) for s in STANDING_SOC] for t in STANDING_C]) for days in (DAYS, DAYS / 4))
    with np.errstate(divide="ignore", invalid="ignore"):
        power = float(np.nanmedian((np.log(eight / two) / np.log(4))[3:8, 8:20]))
    turned = np.array([[[cycled(model, t, d, s) for s in CYCLING_SOC] for d in CYCLING_DOD] for t in CYCLING_C])
    ordinary = turned[4:9, 2:6]
    tells = ordinary[..., 0] > 2e-3
    cycle_power = float(np.nanmedian((ordinary[tells] if tells.any() else ordinary)[..., 2]))
    each = (np.maximum(turned[..., 0], 0.0) ** (1 / cycle_power) / turned[..., 1] * FULL_CYCLES) ** cycle_power
    return {
        "standing_power": short(power), "cycling_power": short(cycle_power), "standing": short(np.maximum(eight, 0.0).tolist()),
        "cycling": short(each.tolist()),
    }  # fmt: skip


def short(values: Any) -> Any:
    """Numbers to four digits."""
    return [short(each) for each in values] if isinstance(values, Sequence) else float(f"{values:.4g}")


def lived(number: int) -> list[list[float]]:
    """Capacity left after each of the whole lives: with the same energy through a fading pack, and with the same levels."""
    model, found = cells()[number][1], []
    for high, depth, mean_c, swing_c in LIVES:
        at, level = day(365, high, high - depth)
        temp_c = mean_c - swing_c * np.cos(2 * np.pi * (at / 86400.0 - 15) / 365.25)
        both = []
        for same_energy in (True, False):
            cell = model()
            cell.simulate_battery_life(
                {"Time_s": at, "SOC": level, "Temperature_C": temp_c},
                threshold_time=YEARS,
                is_conserve_energy_throughput=same_energy,
            )
            both.append(round(float(cell.outputs["q"][-1]), 4))
        found.append(both)
    return found


def cells() -> list[tuple[str, Any]]:
    """Every model of the library for a graphite cell of these chemistries, in its own order."""
    import blast.models as models

    found = []
    for name in sorted(dir(models)):
        chemistry = CHEMISTRIES.get(name[:3])
        if chemistry and "Lto" not in name and isinstance(getattr(models, name), type):
            found.append((chemistry, getattr(models, name)))
    return found


def left(model: Any, temp_c: float) -> tuple[float, float]:
    """Share of capacity left after the years at a temperature, and the seconds it took."""
    at, level = day(365)
    cell, begun = model(), time.perf_counter()
    cell.simulate_battery_life(
        {"Time_s": at, "SOC": level, "Temperature_C": np.full(len(at), temp_c)}, threshold_time=YEARS, is_constant_input=False
    )
    return float(cell.outputs["q"][-1]), time.perf_counter() - begun


def voltages() -> dict[str, list[float]]:
    """Open-circuit voltage of each parameter set at 0, 10 … 100 %."""
    import pybamm

    found: dict[str, list[float]] = {}
    for name in SETS:
        values = pybamm.ParameterValues(name)
        solver = pybamm.lithium_ion.ElectrodeSOHSolver(values)
        found[name] = []
        for level in np.linspace(0.0, 1.0, 11):
            x, y = solver.get_initial_stoichiometries(float(level))[:2]
            positive = values["Positive electrode OCP [V]"](pybamm.Scalar(y))
            negative = values["Negative electrode OCP [V]"](pybamm.Scalar(x))
            found[name].append(round(float(values.evaluate(positive - negative)), 4))
    return found


def keep_rates(names: Sequence[str], chemistries: Sequence[str], found: Sequence[dict[str, Any]]) -> None:
    """Write the core's table: a line for each cell."""
    told = metadata("blast-lite")
    head = {
        "library": told["Name"],
        "version": told["Version"],
        "authors": "P. Gasper, N. Prakash, K. Smith",
        "licence": "BSD-3-Clause, " + told["License"].splitlines()[0],
        "years": YEARS, "days": DAYS, "full_cycles": FULL_CYCLES, "standing_c": STANDING_C, "standing_soc": STANDING_SOC,
        "cycling_c": CYCLING_C, "cycling_dod": CYCLING_DOD, "cycling_soc": CYCLING_SOC,
    }  # fmt: skip
    rows = [{"name": name, "chemistry": cell, **each} for name, cell, each in zip(names, chemistries, found, strict=True)]
    lines = ",\n".join(json.dumps(each) for each in rows)
    RATES.write_text(json.dumps(head)[:-1] + f', "cells": [\n{lines}\n]}}\n')


def main() -> None:
    """Renew the tables."""
    warnings.simplefilter("ignore")
    known = cells()
    names, chemistries = [chr(ord("A") + i) for i in range(len(known))], [chemistry for chemistry, _ in known]
    with Pool() as pool:
        keep_rates(names, chemistries, pool.map(rates, range(len(known)), chunksize=1))
        lives = pool.map(lived, range(len(known)), chunksize=1)
    table: dict[str, Any] = {
        "life": version("blast-lite"), "voltage": version("pybamm"), "years": YEARS, "lives": LIVES, "cells": [], "ocv": voltages(),
    }  # fmt: skip
    for name, chemistry, (_, model), whole in zip(names, chemistries, known, lives, strict=True):
        done = [left(model, each) for each in TEMPS_C]
        kept = {"name": name, "chemistry": chemistry, "left": [round(each, 4) for each, _ in done], "lives": whole}
        table["cells"].append({**kept, "seconds": round(min(each for _, each in done), 3)})
    TABLE.write_text(json.dumps(table, indent=1) + "\n")
    for each in table["cells"]:
        print(each)


if __name__ == "__main__":
    main()
