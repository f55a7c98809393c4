"""The Qt application; the only place that imports PySide6."""
