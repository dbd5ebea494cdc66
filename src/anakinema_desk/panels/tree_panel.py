"""The make-up at the left: the tree, with a line above it that sifts it."""

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from .model_tree import ModelTree


class TreePanel(QWidget):
    """The tree with a line above it that sifts it."""

    def __init__(self, tree: ModelTree):
        super().__init__()
        self.tree = tree
        self.field = QLineEdit()
        self.field.setPlaceholderText("Show only: name, hidden, limited…")
        self.field.setAccessibleName("Show only the lines with these words")
        self.field.setToolTip("Words of a name, a label, a kind or a state: arm, revolute, hidden, limited, fails")
        self.field.setClearButtonEnabled(True)
        self.field.textChanged.connect(tree.sift)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        inset = QHBoxLayout()
        inset.setContentsMargins(8, 6, 8, 4)
        inset.addWidget(self.field)
        layout.addLayout(inset)
        layout.addWidget(tree, 1)
