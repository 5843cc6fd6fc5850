"""What runs in the person's own browser: an extension in plain JavaScript, and the host that its browser starts."""
