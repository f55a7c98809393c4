"""Small faults put into the core on purpose: do the tests that stand nearest notice them?"""
