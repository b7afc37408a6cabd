"""The plan as a calendar (ICS), for one person, one station, or all."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from icalendar import Calendar, Event

from endurant.work.use_cases.planning.today import BlockView


def calendar_of(title: str, blocks: Sequence[BlockView], made_at: datetime) -> bytes:
    """A calendar with an event for each step: from its set-up to the end of the hands-on part.

    A step that needs nobody stands as long as it lasts.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Endurant//plan//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", _one_line(title))
    for block in blocks:
        event = Event()
        event.add("uid", f"{block.step}/{block.id}@endurant".replace(" ", "-"))
        event.add("summary", _one_line(f"{block.step}: {block.test}"))
        event.add("dtstamp", made_at)
        event.add("dtstart", block.begins)
        event.add("dtend", block.hands_on_end if block.hands_on_end > block.start else block.end)
        event.add("description", _one_line(block.why))
        if block.place:
            event.add("location", _one_line(block.place))
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def _one_line(text: str) -> str:
    """Text without line breaks, which would begin a line of the calendar of their own."""
    return " ".join(text.split())
