"""Commands that back up, restore and upgrade."""
