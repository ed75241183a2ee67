"""Files that panels ask for."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget


def open_file(parent: QWidget, title: str, kinds: str) -> Path | None:
    found, _ = QFileDialog.getOpenFileName(parent, title, "", kinds)
    return Path(found) if found else None


def save_file(parent: QWidget, title: str, offer: str, kinds: str) -> Path | None:
    found, _ = QFileDialog.getSaveFileName(parent, title, offer, kinds)
    return Path(found) if found else None


def folder_for(parent: QWidget, title: str) -> Path | None:
    found = QFileDialog.getExistingDirectory(parent, title)
    return Path(found) if found else None
