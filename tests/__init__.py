"""Tests: core, reference (against published values and libraries), household, web, browser."""
