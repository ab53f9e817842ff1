"""The rules and the arithmetic: pure functions on frozen dataclasses."""
