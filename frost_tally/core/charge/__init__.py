"""Supply, tariff, session and the night plan."""
