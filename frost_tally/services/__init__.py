"""A module or a folder a room, named as the room: load, ask the core, return a result without a view; `shared`: what several rooms ask."""
