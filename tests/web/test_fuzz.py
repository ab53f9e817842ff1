"""The API held against its own schema with what nobody would send: no failure of ours, every answer as described.

A kept library draws the requests from the description. Source: OpenAPI 3.1; RFC 9457; RFC 9110 (401 with a challenge, 405 with Allow).
"""

import re
from collections import Counter
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis.checks import CHECKS, load_all_checks

from frost_tally.access.door import Purpose
from frost_tally.web.api.limit import Buckets
from frost_tally.web.api.routes import schema
from tests.drilled import count, seed_of
from tests.web.test_door import Signed

CASES = 5000
LEFT = ("positive_data_acceptance", "ignored_auth")
"""What the schema allows may still not go together, such as an end before its beginning; keys are tried with the door, every one on every route."""


def near(case: Any) -> None:
    """Most that is drawn is of a car that is there, of last year, and of numbers that there may be: else little more than the edge is tried."""
    for values, name, most in ((case.body, "car_id", 2), (case.query, "car", 2), (case.path_parameters, "number", 40)):
        if isinstance(values, dict) and isinstance(drawn := values.get(name), int) and drawn % 5:
            values[name] = 1 + drawn % most
    if isinstance(case.body, dict):
        dated = {name: told for name, told in case.body.items() if isinstance(told, str) and re.match(r"\d{4}-\d\d-\d\dT", told)}
        case.body |= {name: f"2026{told[4:]}" for name, told in dated.items()}


class Fuzz(Signed):
    def test_no_failure_of_ours_and_every_answer_by_its_schema(self) -> None:
        described = schemathesis.openapi.from_dict(schema())
        described.app = self.app
        described.config.update(base_url="http://127.0.0.1:8642")
        self.app.state.buckets = Buckets(10**9)
        key = self.access.make_token(Purpose.SCRIPT, "one that tries everything")
        load_all_checks()
        checks = [check for name, check in CHECKS._items.items() if name not in LEFT]
        self.assertGreater(len(checks), 8)
        drawn, operations = seed_of("fuzz"), [each.ok() for each in described.get_all_operations()]  # type: ignore[union-attr]
        told: Counter[int] = Counter()

        def tried(case: Any) -> None:
            near(case)
            answer = case.call(headers={"authorization": f"Bearer {key}"})
            told[answer.status_code] += 1
            case.validate_response(answer, checks=checks)

        each = 1 + count(CASES) // len(operations)
        every = settings(
            max_examples=each, database=None, deadline=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
        )
        for operation in operations:
            with self.subTest(operation=operation.label, seed=drawn):
                seed(drawn)(every(given(case=operation.as_strategy())(lambda case: tried(case))))()
        print(f"fuzz: {sum(told.values())} requests, {dict(sorted(told.items()))}", flush=True)
        self.assertGreaterEqual(sum(told.values()), count(CASES) // 2)
        for status in (200, 201, 404, 422):
            self.assertGreater(told[status], 20, status)
