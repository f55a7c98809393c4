"""What makes a package of the program: the man page, and a package for Debian."""
