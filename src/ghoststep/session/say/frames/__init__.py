"""What can be asked of a groove, a file a topic: each frame takes a clause and gives the readings it has for it."""
