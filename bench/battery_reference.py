"""Run the public libraries of cells and keep a small table of what they say, for tests and bench to compare with.

Needs the extra `reference`; `make reference` installs it and calls this file. From the battery-life library every NMC, NCA and LFP
cell with a graphite anode, picked by program and lettered, so that no model name reaches our files: capacity left after eight years of the
same day at three temperatures. From the battery-modelling library the open-circuit voltage of its published parameter sets, by paper.
"""

import json
import time
import warnings
from importlib.metadata import version
from pathlib import Path
from typing import Any

import numpy as np

TABLE = Path(__file__).resolve().parents[1] / "tests" / "reference" / "data" / "cells.json"
YEARS, TEMPS_C, HIGH, LOW = 8, (10.0, 20.0, 30.0), 0.8, 0.5
SETS = ("Mohtat2020", "Ecker2015", "Chen2020")
CHEMISTRIES = {"Nmc": "NMC", "NMC": "NMC", "Nca": "NMC", "NCA": "NMC", "Lfp": "LFP"}


def day(days: int) -> tuple[np.ndarray, np.ndarray]:
    """Time (s) and level of days: down from 80 to 50 % by day, standing low, charged late, on the hour."""
    hours = np.arange(24 * days + 1)
    clock = (hours + 7) % 24
    level = np.interp(clock, [0, 4, 7, 8, 17, 18, 24], [LOW, LOW, HIGH, HIGH - 0.15, HIGH - 0.15, LOW, LOW])
    return hours * 3600.0, level


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


def main() -> None:
    """Renew the table."""
    warnings.simplefilter("ignore")
    table: dict[str, Any] = {
        "life": version("blast-lite"),
        "voltage": version("pybamm"),
        "years": YEARS,
        "cells": [],
        "ocv": voltages(),
    }
    for number, (chemistry, model) in enumerate(cells()):
        try:
            done = [left(model, each) for each in TEMPS_C]
        except (ValueError, ArithmeticError, KeyError) as problem:
            print(f"one cell left out: {problem}")
            continue
        kept = {"name": chr(ord("A") + number), "chemistry": chemistry, "left": [round(each, 4) for each, _ in done]}
        table["cells"].append({**kept, "seconds": round(min(each for _, each in done), 3)})
    TABLE.write_text(json.dumps(table, indent=1) + "\n")
    for each in table["cells"]:
        print(each)


if __name__ == "__main__":
    main()
