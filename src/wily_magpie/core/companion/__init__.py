"""What runs outside the window, the companion in the person's browser first of all, and how it reaches the program."""
