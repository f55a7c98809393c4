"""The grid on screen, shared by places."""
