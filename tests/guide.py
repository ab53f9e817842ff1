"""What the guide says of faults: the sentences in bold, and those that the code says."""

import ast
import re
from pathlib import Path

import frost_tally

GUIDE = Path(__file__).parents[1] / "docs" / "guide" / "faults.md"
SOURCE = Path(frost_tally.__file__).parent
SHORT = 8


def in_bold(heading: str) -> list[str]:
    """The sentences under a heading; "…" in them stands for what they are about."""
    part = GUIDE.read_text().partition(f"## {heading}\n")[2].partition("\n## ")[0]
    return [re.sub(r"\s+", " ", each) for each in re.findall(r"\*\*(.+?)\*\*", part, re.DOTALL)]


def says(said: str, sentence: str) -> bool:
    """Whether all of a sentence is said, one part after the other."""
    return bool(re.search(".*".join(re.escape(each) for each in sentence.split("…")), re.sub(r"\s+", " ", said)))


def of_the_code(file: str, *makers: str) -> list[list[str]]:
    """The fixed parts of each text that a file gives to one of these names."""
    calls = [each for each in ast.walk(ast.parse((SOURCE / file).read_text())) if isinstance(each, ast.Call)]
    named = [each for each in calls if getattr(each.func, "id", getattr(each.func, "attr", "")) in makers]
    found = [
        [each.value for each in ast.walk(call) if isinstance(each, ast.Constant) and isinstance(each.value, str)]
        for call in named
    ]
    return [each for each in found if any(len(text) >= SHORT for text in each)]


def without_a_word(code: list[list[str]], guide: list[str]) -> list[list[str]]:
    """Of the code's texts those of which nothing stands in the guide."""
    parts = [part.strip(" .:") for each in guide for part in each.split("…") if len(part.strip(" .:")) >= SHORT]
    return [
        texts for texts in code if not any(part in text or text in part for part in parts for text in texts if len(text) >= SHORT)
    ]
