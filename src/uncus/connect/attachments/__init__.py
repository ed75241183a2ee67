"""Attachments: things on or in one member that follow it; a file per kind and the list of kinds."""
