"""Other doors to a groove: a mouth, a track for each drum, MIDI whose tempo is given."""
