"""Live databases that collections follow: the tables about them, and how they are asked."""
