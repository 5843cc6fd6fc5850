"""The editor of texts of many lines."""

from PyQt6.QtWidgets import QPlainTextEdit


class LongText(QPlainTextEdit):
    """Gives a text back to the letter, where Qt's own would make plain spaces and line ends of others."""

    given = ""

    def set_text(self, text: str) -> None:
        """Puts a text in, which counts as unedited."""
        self.given = text
        self.setPlainText(text)

    def text(self) -> str:
        """The text that was put in, or what a person made of it, its lines ended by line feeds."""
        document = self.document()
        if document is None or not document.isModified():
            return self.given
        return document.toRawText().replace("\u2029", "\n")
