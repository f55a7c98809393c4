"""The rows of the command table that say a phrase: the same in the window and in `ghost-step edit`."""

from ghoststep.desk.model.command_table import says

# -- Edit -------------------------------------------------------------------------------------------------------

says("edit.cut", "Cut", "cut", "Ctrl+X", menu="Edit", group="clip")
says("edit.copy", "Copy", "copy", "Ctrl+C", menu="Edit", group="clip")
says("edit.paste", "Paste into the cursor's bar", "paste", "Ctrl+V", menu="Edit", group="clip")
says("edit.paste_here", "Paste at the cursor", "paste here", "Ctrl+Shift+V", menu="Edit", group="clip")
says("edit.select_all", "Choose every hit", "select everything", "Ctrl+A", menu="Edit", group="choose")
says("edit.select_lane", "Choose the lane", "select lane", "Ctrl+L", menu="Edit", group="choose")
says("edit.select_bar", "Choose the bar", "select bar here", "Ctrl+B", menu="Edit", group="choose")
says("edit.select_beat", "Choose this beat everywhere", "select beat here", "Ctrl+Shift+B", menu="Edit", group="choose")
says("edit.select_ghosts", "Choose every ghost", "select ghosts", "Ctrl+G", menu="Edit", group="choose")
says("edit.select_accents", "Choose every accent", "select accents", "Ctrl+Shift+A", menu="Edit", group="choose")

# -- Hit --------------------------------------------------------------------------------------------------------

says("hit.toggle", "Place or remove", "toggle", "Return", "Enter", menu="Hit", group="place")
says("hit.remove", "Remove", "remove", "Delete", "Backspace", menu="Hit", group="place")
says("hit.earlier", "1 ms earlier", "nudge -1", "Alt+Left", menu="Hit", group="time")
says("hit.later", "1 ms later", "nudge +1", "Alt+Right", menu="Hit", group="time")
says("hit.earlier_64", "A 64th earlier", "nudge -1/64", "Ctrl+Alt+Left", menu="Hit", group="time")
says("hit.later_64", "A 64th later", "nudge +1/64", "Ctrl+Alt+Right", menu="Hit", group="time")
says("hit.on_spot", "On its spot", "offset 0", "0", menu="Hit", group="time")
says("hit.step_back", "A step earlier", "move -1 step", "Shift+Left", menu="Hit", group="time")
says("hit.step_on", "A step later", "move +1 step", "Shift+Right", menu="Hit", group="time")
says("hit.next_voice", "Next voice of the lane", "next-voice", "V", menu="Hit", group="stroke")
says("hit.next_stroke", "Next stroke", "stroke next", "X", menu="Hit", group="stroke")
says("hit.longer", "Lasts a step longer", "length +1 step", "Ctrl+Shift+Right", menu="Hit", group="stroke")
says("hit.shorter", "Lasts a step less", "length -1 step", "Ctrl+Shift+Left", menu="Hit", group="stroke")
says("hit.ring", "Let it ring", "length ring", "Shift+L", menu="Hit", group="stroke")
says("hit.flam", "Flam", "ornament flam", "1", menu="Hit", group="ornament")
says("hit.double", "Double: two in one step", "ornament double", "2", menu="Hit", group="ornament")
says("hit.drag", "Drag", "ornament drag", "3", menu="Hit", group="ornament")
says("hit.ruff", "Ruff", "ornament ruff", "4", menu="Hit", group="ornament")
says("hit.roll5", "Five-stroke roll", "ornament roll5", "5", menu="Hit", group="ornament")
says("hit.roll6", "Six-stroke roll", "ornament roll6", "6", menu="Hit", group="ornament")
says("hit.roll7", "Seven-stroke roll", "ornament roll7", "7", menu="Hit", group="ornament")
says("hit.roll", "Double-stroke roll", "ornament roll", "8", menu="Hit", group="ornament")
says("hit.press", "Buzz roll", "ornament press", "9", menu="Hit", group="ornament")
says("hit.plain", "No ornament", "ornament none", "O", menu="Hit", group="ornament")

# -- Touch ------------------------------------------------------------------------------------------------------

says("hit.ghost", "Ghost", "as ghost", "G", menu="Touch", group="role")
says("hit.normal", "Normal", "as normal", "N", menu="Touch", group="role")
says("hit.accent", "Accent", "as accent", "A", menu="Touch", group="role")
says("hit.hardest", "Hardest", "role hardest", "Shift+A", menu="Touch", group="role")
says("hit.role_up", "A role up", "role up", "Alt+Up", menu="Touch", group="role")
says("hit.role_down", "A role down", "role down", "Alt+Down", menu="Touch", group="role")
says("hit.louder", "Louder", "velocity +4", "Shift+Up", menu="Touch", group="level")
says("hit.softer", "Softer", "velocity -4", "Shift+Down", menu="Touch", group="level")
says("hit.all_louder", "Louder by a tenth, roles kept", "scale 110", "Ctrl+Up", menu="Touch", group="level")
says("hit.all_softer", "Softer by a tenth, roles kept", "scale 91", "Ctrl+Down", menu="Touch", group="level")
says("hit.even", "More even", "even 30", "E", menu="Touch", group="level")
says("hit.uneven", "Less even", "even -40", "Shift+E", menu="Touch", group="level")
says("hit.crescendo", "Crescendo", "crescendo 75 115", "C", menu="Touch", group="level")
says("hit.diminuendo", "Diminuendo", "crescendo 115 75", "Shift+C", menu="Touch", group="level")
says("touch.accents_beat", "Accents on the beat", "accents beat on lane", menu="Touch", group="accents")
says("touch.accents_off", "Accents on the off-beat", "accents off-beat on lane", menu="Touch", group="accents")
says("touch.accents_3", "Accents on every third", "accents every 3 on lane", menu="Touch", group="accents")
says(
    "touch.to_tom",
    "Accents to the high tom, the rest ghosts",
    "accents-to tom_high on lane",
    menu="Touch",
    group="accents",
)
says("touch.fill", "Fill weak sixteenths with ghosts", "fill snare under hat", "Ctrl+P", menu="Touch", group="ghosts")
says("touch.thin", "Thin out ghosts", "thin 30", "Shift+P", menu="Touch", group="ghosts")
says("touch.balance", "Next balance: which drum leads", "balance next", "Y", menu="Touch", group="balance")

# -- Hands ------------------------------------------------------------------------------------------------------

says("hands.right", "Sticking, right-handed", "sticking right-handed", "Shift+S", menu="Hands", group="sticking")
says("hands.left", "Sticking, left-handed", "sticking left-handed", menu="Hands", group="sticking")
says("hands.open", "Sticking, open-handed", "sticking open-handed", menu="Hands", group="sticking")
says("hit.swap_hands", "Swap the hands", "swap", "S", menu="Hands", group="hands")
says("hands.linear", "Keep it linear", "linear toggle", "J", menu="Hands", group="hands")
says("hands.names", "Name the rudiments", "names", menu="Hands", group="hands")

# -- Groove -----------------------------------------------------------------------------------------------------

says("groove.straighten", "Everything dead on the grid", "straighten", menu="Groove", place="", group="feel")
says("groove.as_heard", "Back to what was heard", "as-heard", menu="Groove", place="", group="feel")
says("groove.new_take", "Another take of the looseness", "take +1", "T", menu="Groove", place="", group="feel")
says("groove.rotate_on", "Rotate the lane a step later", "rotate 1", "Ctrl+Right", menu="Groove", group="lane")
says("groove.rotate_back", "Rotate the lane a step earlier", "rotate -1", "Ctrl+Left", menu="Groove", group="lane")
says("groove.mirror", "Turn the chosen round in time", "mirror", "Shift+M", menu="Groove", group="lane")
says("groove.insert", "Insert a step", "insert 1 step", "Insert", menu="Groove", group="time")
says("groove.delete", "Take a step out", "delete 1 step", "Ctrl+Delete", menu="Groove", group="time")
says("groove.double_bar", "Double the bar", "double-bar", "D", menu="Groove", group="bars")
says("groove.delete_bar", "Take the bar out", "delete-bar", "Shift+Delete", menu="Groove", group="bars")
says("groove.bar_more", "Add an empty bar", "bars +1", "Ctrl++", menu="Groove", group="bars")
says("groove.bar_less", "Drop the last bar", "bars -1", "Ctrl+-", menu="Groove", group="bars")
says("groove.count", "Count in two, or in four", "count", menu="Groove", group="grid")
says("groove.grid_16", "Grid of the bar: sixteenths", "grid 16 bars here", menu="Groove", group="grid")
says("groove.grid_32", "Grid of the bar: 32nds", "grid 32 bars here", menu="Groove", group="grid")
says("groove.grid_12", "Grid of the bar: triplets", "grid triplets bars here", menu="Groove", group="grid")
says("groove.grid_24", "Grid of the bar: sextuplets", "grid sextuplets bars here", menu="Groove", group="grid")
says("groove.only_here", "Edits change only their bar, or the part", "only-here", menu="Groove", group="bars")
says("groove.ring", "Ring over the loop point, or choke", "ring toggle", menu="Groove", group="loop")
