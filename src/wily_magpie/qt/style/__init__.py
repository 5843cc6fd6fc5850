"""How everything looks: colours, spacing, fonts and icons, in one place."""
