"""Everything that only asks: plain frozen data comes back, never anything that can write."""
