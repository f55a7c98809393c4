"""The document a user works on, its history, and the table of what can be done to it. No interface code."""
