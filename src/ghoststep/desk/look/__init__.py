"""Colours, fonts, stems and the scrolled picture."""
