"""The night as it happens: the runner that carries a plan out, a simulated house with its faults, and what the night could have cost."""
