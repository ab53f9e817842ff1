"""Air, tyres, road, trips and the tally of a day's range."""
