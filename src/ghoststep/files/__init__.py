"""Reading and writing: sound, MIDI, text grids, projects, analyses. Every door checks what comes in."""
