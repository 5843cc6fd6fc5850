"""What the text of an entry is made of, for every kind of page or for one of them."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from wily_magpie.core.templates.template import BODY_PARTS, Body, Template
from wily_magpie.qt.editors.markdown_editor import MarkdownEditor
from wily_magpie.qt.style.parts import label

TEXT_PX = 58
EVERY_KIND, AS_EVERY = "every kind of page", "as of every kind of page"
PAGE_KINDS = ("article", "video", "discussion", "question", "paper", "product", "event", "podcast episode", "recipe",
              "data set", "object", "e-mail")  # fmt: skip


class BodyForm(QWidget):
    """Shows and changes it.

    Signals:
        finished: the person is done with a part of it.
    """

    finished = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.template: Template | None = None
        self.kind, self.part = QComboBox(), QComboBox()
        self.kind.setAccessibleName("Text of which kind of page")
        self.part.setAccessibleName("What the text is made of")
        self.kind.addItem(EVERY_KIND)
        self.kind.addItems([f"only pages of the kind {kind}" for kind in PAGE_KINDS])
        self.part.addItems([f"the {part}" if part != "nothing" else part for part in BODY_PARTS])
        self.part.addItem(AS_EVERY)
        self.before, self.after = (MarkdownEditor(name) for name in ("Text before it", "Text after it"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        row = QHBoxLayout()
        row.addWidget(label("of"))
        row.addWidget(self.kind, 1)
        row.addWidget(label("is"))
        row.addWidget(self.part, 1)
        column.addLayout(row)
        for editor, words in ((self.before, "before it, text of your own"), (self.after, "after it, text of your own")):
            editor.setFixedHeight(TEXT_PX)
            editor.setPlaceholderText(f"{words}; {{{{ page.site }}}} is filled in")
            editor.finished.connect(self.finished)
            column.addWidget(editor)
        self.kind.activated.connect(lambda _index: self.show_body())
        self.part.activated.connect(lambda _index: self.finished.emit())

    def show_template(self, template: Template, *, is_other: bool) -> None:
        """Shows a template's; of another one that of every kind of page."""
        self.template = template
        if is_other:
            self.kind.setCurrentIndex(0)
        self.show_body()

    def kind_now(self) -> str:
        """The kind of page whose text is shown; "" for every kind."""
        at = self.kind.currentIndex()
        return PAGE_KINDS[at - 1] if at > 0 else ""

    def show_body(self) -> None:
        """Shows what the text is made of, for every kind of page or the chosen one."""
        template, kind = self.template, self.kind_now()
        if template is None:
            return
        body = template.bodies.get(kind) if kind else template.body
        self.part.setCurrentIndex(BODY_PARTS.index(body.part) if body is not None else len(BODY_PARTS))
        for editor, text in ((self.before, body.before if body else ""), (self.after, body.after if body else "")):
            editor.setEnabled(body is not None)
            if not editor.hasFocus():
                editor.set_text(text)

    def written(self, template: Template) -> tuple[Body, dict[str, Body]]:
        """What the text is made of as it stands here."""
        kind, at = self.kind_now(), self.part.currentIndex()
        bodies = {name: body for name, body in template.bodies.items() if name != kind}
        if at == len(BODY_PARTS):
            return template.body, bodies
        body = Body(BODY_PARTS[at], self.before.text(), self.after.text())
        return (template.body, {**bodies, kind: body}) if kind else (body, bodies)
