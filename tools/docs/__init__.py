"""Pages of the documentation that are made from the tables of the program."""
