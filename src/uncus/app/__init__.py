"""The Qt interface."""
