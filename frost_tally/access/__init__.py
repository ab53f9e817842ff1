"""Who may come in from the home network: people, signed-in devices and tokens, in a file of its own beside the household's.

It is no part of the household's data: no document has it, no undo brings it back, and a copy that is restored lets nobody in again who
was put out. Why: docs/decisions/0071.
"""
