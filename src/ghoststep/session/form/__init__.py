"""Forms as values: rows of sections, what bars of the whole say beside their parts, new shapes, and forms as text.

Nothing here says or reads a phrase; what variations and exceptions come to stands in `session.language.forms`.
"""
