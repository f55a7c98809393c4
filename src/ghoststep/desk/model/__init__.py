"""The working state behind the window: no widgets."""
