"""The demo review: invented files, papers and a team's work on them."""

TITLE = "Hive insulation and winter survival"
QUESTION = "Does insulating beehives help honeybee colonies survive the winter?"
