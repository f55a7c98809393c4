"""The commands that open the places, and the demo."""

from ghoststep.session.commands.table import row

ROWS = (
    row("view.listen", "Listen", "F1", menu="View"),
    row("view.place", "Place", "F2", menu="View"),
    row("view.form", "Form", "F3", menu="View"),
    row("view.check", "Check", "F4", menu="View"),
    row("view.menus", "Open the menus", "F10", menu="Help"),
    row("file.demo", "Open the demo", menu="File", group="open"),
)
