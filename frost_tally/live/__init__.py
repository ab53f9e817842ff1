"""What goes on while the server runs: reminders."""
