"""The log of builds in words."""

from calm_heron.plugs import Sentence
from calm_heron.site.numbers import counted

LOG: dict[str, Sentence] = {
    "made": "The build “{subject}” begun",
    "changed": "The build “{subject}” changed",
    "deleted": lambda data, system: f"The build “{data['subject']}” deleted, {counted(data['boards'], 'board')} released",
    "done": lambda data, system: f"The build “{data['subject']}” is done, {counted(data['boards'], 'board')} used up",
    "not_done": "The build “{subject}” is being made again: it wasn’t done",
    "measured": "“{subject}”: {part} measured, {measured}",
    "measurement_struck": "“{subject}”: a measurement of {part} struck out",
    "measurement_back": "“{subject}”: a measurement of {part} counts again",
    "as_made": "“{subject}”: what {part} was when it was made, corrected",
    "sawn": lambda data, system: (
        f"“{data['subject']}”: {data['board']} sawn, {counted(data['pieces'], 'piece')} cut"
        + (f", {', '.join(data['offcuts'])} left" if data["offcuts"] else "")
        + (f": {data['note']}" if data["note"] else "")
    ),
    "not_sawn": "“{subject}”: {board} was not sawn after all",
    "parts_added": lambda data, system: f"“{data['subject']}”: {counted(data['count'], 'part')} added",
    "part_changed": "“{subject}”: {part} changed",
    "part_deleted": "“{subject}”: {part} taken out",
    "laid_out": lambda data, system: f"“{data['subject']}”: {counted(data['pieces'], 'part')} placed on {counted(data['boards'], 'board')}",
    "placed": "“{subject}”: {piece} placed on {board}",
    "taken_off": "“{subject}”: {piece} taken off {board}",
    "marked": lambda data, system: (
        f"{data['subject']}: {data['flaw']} marked" + (f", {counted(data['off'], 'piece')} came off it" if data["off"] else "")
    ),
    "face": "“{subject}”: which face of {board} shows",
    "framed": "“{subject}”: {board} laid on its photograph",
    "unmarked": "{subject}: a mark ({flaw}) taken away",
    "arranged": "“{subject}”: the boards of {part} arranged",
    "glued": "“{subject}”: {part} glued up",
}
