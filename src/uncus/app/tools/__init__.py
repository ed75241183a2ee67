"""Picking tools: small state machines without Qt; events in, a preview and one change out."""
