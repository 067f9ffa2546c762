"""Commands about live databases that collections follow."""
