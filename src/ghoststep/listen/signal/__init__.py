"""What the sound itself says: candidates, spectra, levels, attacks, a click."""
