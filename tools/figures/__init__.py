"""The page of figures: what is asked stands in `docs/figures/asked.toml`, what was measured in `measured.json`."""
