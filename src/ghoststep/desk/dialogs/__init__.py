"""What is asked before something is done, and what is handed on."""
