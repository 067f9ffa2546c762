"""What tunings found out."""
