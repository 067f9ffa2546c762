"""Collections and their fields."""
