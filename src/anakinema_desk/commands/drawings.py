"""The commands for drawings: outlines in and out, a picture to trace."""

from PySide6.QtCore import QPointF

from anakinema.errors import DocumentError, located
from anakinema.formats import project
from anakinema.operations.importing import add_outlines
from anakinema.operations.tracing import lay_picture

from ..canvas.pictures import decoded
from .doing import Doing
from .registry import Command


class Drawings(Doing):
    """Parts from drawings, drawings of parts, pictures."""

    def commands(self) -> list[Command]:
        """The commands, for the menu File."""
        session = self.session

        def loaded() -> bool:
            return session.document is not None

        return [
            Command("read-drawing", "Parts from a drawing…", "File", self.read, "Ctrl+I", enabled=loaded,
                    divider=True, hint="Closed outlines of a DXF or SVG file become parts"),
            Command("lay-picture", "Picture to trace…", "File", self.lay_picture, enabled=loaded,
                    hint="A PNG or JPEG picture lies under the bench, to be scaled by two places and traced"),
            Command("take-picture", "Take the picture away", "File",
                    lambda: session.remove(("picture",), "Take the picture away"),
                    enabled=lambda: session.document is not None and session.document.picture is not None),
            Command("write-drawing", "Write a drawing…", "File", self.write, enabled=loaded,
                    hint="The outlines of the parts that are selected, else of all, as DXF or SVG"),
        ]  # fmt: skip

    def read(self) -> None:
        """Asks for a drawing and what of it is to become parts, and makes them."""
        path = self.asking.file("Parts from a drawing", "Drawings (*.dxf *.svg);;All files (*)")
        document = self.session.document
        if path is None or document is None:
            return
        try:
            outlines = self.asking.drawn(path, document.units.length, self.session.drawing_client)
        except DocumentError as error:
            self.session.faults_raised.emit(f"{path.name} can't be read", error.faults)
            return
        if outlines and self.make(lambda document: add_outlines(document, outlines), f"Parts from {path.name}"):
            self._bench().fit()

    def write(self) -> None:
        """Asks for a file and has the outlines of what is selected, else of all, written where the parts stand."""
        document = self.session.document
        path = self.asking.new_file("Write a drawing", "mechanism.dxf", "DXF (*.dxf);;SVG (*.svg)")
        if path is None or document is None:
            return
        parts = self.session.selection.chosen("parts") or list(document.parts)
        self.session.drawing_client.write(document, path, self.session.posing.poses(), parts)

    def lay_picture(self) -> None:
        """Asks for a picture and lays it under the bench, as wide as that."""
        path = self.asking.file("Picture to trace", "Pictures (*.png *.jpg *.jpeg);;All files (*)")
        canvas = self._bench()
        if path is None or self.session.document is None:
            return
        try:
            data = project.read_bytes(path)
            if why := decoded(data)[1]:
                raise located("", why)
            corner = canvas.to_world(QPointF(40, canvas.height() - 60))
            wide = (canvas.width() - 80) / canvas.scale
            made = lay_picture(data, complex(corner.x(), corner.y()), wide)
            faults = self.session.apply(made.changes, f"Lay {path.name}")
        except DocumentError as error:
            faults = error.faults
        if faults:
            self.session.faults_raised.emit(f"{path.name} can't be laid under the bench", faults)
        else:
            canvas.take("picture")
