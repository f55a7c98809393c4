"""The built-in kit, rooms, and rendering a performance to sound. No files, no devices."""
