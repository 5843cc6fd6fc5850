"""All that the program knows: pages, templates, places, questions. No interface is imported here, ever."""
