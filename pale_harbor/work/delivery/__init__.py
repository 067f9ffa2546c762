"""What the world sees: keys, what is live, answers at the endpoint, and what was asked there."""
