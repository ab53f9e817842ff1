"""The protocol over real sockets, the runner as a task, and the nights that both make."""
