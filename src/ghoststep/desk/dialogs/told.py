"""A groove told in sentences, to be read and copied."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget


class ToldDialog(QDialog):
    """What is there, in words; each sentence can be said in the line and gives that back."""

    def __init__(self, sentences: list[str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("What is there")
        self.resize(640, 420)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 14, 20, 12)
        self.text = QPlainTextEdit("\n".join(sentences))
        self.text.setReadOnly(True)
        self.text.setAccessibleName("What is there")
        layout.addWidget(self.text)
        row = QHBoxLayout()
        copy = QPushButton("Copy")
        copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(self.text.toPlainText()))
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        row.addStretch(1)
        row.addWidget(copy)
        row.addWidget(close)
        layout.addLayout(row)
        close.setFocus(Qt.FocusReason.OtherFocusReason)
