"""The panel that shows and edits what is selected."""
