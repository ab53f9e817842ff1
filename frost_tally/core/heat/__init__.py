"""Pack and cabin temperatures, climate and warming before departure."""
