"""A track of a drive as the start of its entry."""

from datetime import UTC, datetime

from ...formats.gpx import Track
from ...formats.readers import Here, read_file
from ...household.calendar import holidays_of
from ...household.snapshot import Snapshot


def drive_of(snapshot: Snapshot, content: bytes) -> dict[str, str]:
    """A GPX track as the start of a drive: its kilometres, and when it left and came home. Raises: Refusal."""
    track: Track = read_file("track", content, Here(snapshot.home.place.zone, holidays_of))
    times = {name: s for name, s in (("left_at", track.begun_s), ("home_at", track.ended_s)) if s is not None}
    found = {name: datetime.fromtimestamp(s, UTC).isoformat() for name, s in times.items()} | {"km": f"{track.km:.2f}"}
    return found | ({"mean_kmh": f"{track.km / track.hours:.1f}"} if track.hours else {})
