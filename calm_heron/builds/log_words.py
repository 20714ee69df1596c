"""The log of builds in words."""

from calm_heron.plugs import Sentence


def _many(count: int, word: str) -> str:
    return f"{count} {word}{'s' if count != 1 else ''}"


LOG: dict[str, Sentence] = {
    "made": "The build “{subject}” begun",
    "changed": "The build “{subject}” changed",
    "deleted": lambda data, system: f"The build “{data['subject']}” taken out, {_many(data['boards'], 'board')} let go",
    "done": lambda data, system: f"The build “{data['subject']}” is done, {_many(data['boards'], 'board')} used up",
    "parts_added": lambda data, system: f"“{data['subject']}”: {_many(data['count'], 'part')} added",
    "part_changed": "“{subject}”: {part} changed",
    "part_deleted": "“{subject}”: {part} taken out",
    "laid_out": lambda data, system: f"“{data['subject']}”: {_many(data['pieces'], 'piece')} laid on {_many(data['boards'], 'board')}",
    "placed": "“{subject}”: {piece} laid on {board}",
    "taken_off": "“{subject}”: {piece} taken off {board}",
    "marked": lambda data, system: (
        f"{data['subject']}: {data['flaw']} marked" + (f", {_many(data['off'], 'piece')} came off it" if data["off"] else "")
    ),
    "unmarked": "{subject}: a mark ({flaw}) taken away",
    "arranged": "“{subject}”: the boards of {part} arranged",
    "glued": "“{subject}”: {part} glued up",
}
