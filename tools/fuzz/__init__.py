"""Broken files, fed to every reader: each is read or refused in a sentence, and nothing else happens."""
