"""The pages of the panel beside the grid: the hit, touch, hands, the groove, versions."""
