"""What scripts ask and send, as JSON: the numbers are read from the values that the pages show."""
