"""What visitors say by what they do: clicks, words that they type next, and which of two rankers they prefer."""
