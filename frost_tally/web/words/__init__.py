"""All English: sentences, names and units in words, by room; the core and the services speak in codes with values."""
