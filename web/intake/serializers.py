"""Serializers of scans and their pages."""

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from lighten import check_corners
from scanners import ColourMode, PaperSize, PaperSource
from web.intake.models import Intake, Page, Scan
from web.presets.treatments import PresentChoiceField

__all__ = [
    "IntakeRowSerializer",
    "IntakeSerializer",
    "KeepSerializer",
    "KeptSerializer",
    "OrderSerializer",
    "PageChangeSerializer",
    "PageSerializer",
    "PictureSerializer",
    "ScanRequestSerializer",
    "ScannerSerializer",
]

_QUARTERS = (0, 90, 180, 270)


class SourceSerializer(serializers.Serializer[Any]):
    name = serializers.ChoiceField(choices=list(PaperSource))
    ppi = serializers.ListField(child=serializers.IntegerField())
    colours = serializers.ListField(child=serializers.ChoiceField(choices=list(ColourMode)))
    has_duplex = serializers.BooleanField()


class ScannerSerializer(serializers.Serializer[Any]):
    """A scanner. sources: none if it does not answer; `message` says why."""

    name = serializers.CharField()
    model = serializers.CharField(allow_blank=True)
    state = serializers.CharField()
    message = serializers.CharField(allow_blank=True)
    sources = SourceSerializer(many=True)


class LayersSerializer(serializers.Serializer[Any]):
    size_bytes = serializers.IntegerField()
    is_layered = serializers.BooleanField()
    reason = serializers.CharField(allow_blank=True)
    verdict = serializers.CharField(allow_null=True)
    score = serializers.FloatField(allow_null=True)
    has_place = serializers.BooleanField()


class CornersField(serializers.ListField):
    """Upper left, upper right, lower right, lower left, as shares of what is seen; or null."""

    child = serializers.ListField(
        child=serializers.FloatField(min_value=0, max_value=1), min_length=2, max_length=2
    )

    def __init__(self, **options: Any) -> None:
        super().__init__(min_length=4, max_length=4, **options)

    def run_validation(self, data: Any = serializers.empty) -> Any:
        corners = super().run_validation(data)
        if isinstance(corners, list):
            try:
                check_corners(tuple(map(tuple, corners)))  # type: ignore[arg-type] # four of two
            except ValueError as error:
                raise serializers.ValidationError(f"{error}.") from error
        return corners


class PageSerializer(serializers.ModelSerializer[Page]):
    """corners: of the sheet in it that is the page, or null; found_corners: where one is seen.

    is_blank, ppi, found_corners: null until it has been looked at; layers: until tried.
    """

    turn = serializers.ChoiceField(choices=_QUARTERS, read_only=True)
    corners = CornersField(read_only=True, allow_null=True)
    found_corners = serializers.SerializerMethodField()
    is_blank = serializers.SerializerMethodField()
    ppi = serializers.SerializerMethodField()
    layers = serializers.SerializerMethodField()

    class Meta:
        model = Page
        fields = (
            "id",
            "name",
            "size_bytes",
            "turn",
            "corners",
            "found_corners",
            "is_out",
            "is_blank",
            "ppi",
            "layers",
            "error_message",
        )
        read_only_fields = fields

    def get_is_blank(self, page: Page) -> bool | None:
        return None if page.look is None else bool(page.look["is_blank"])

    @extend_schema_field(CornersField(allow_null=True))
    def get_found_corners(self, page: Page) -> Any:
        return None if page.look is None else page.look["corners"]

    def get_ppi(self, page: Page) -> float | None:
        return None if page.look is None else float(page.look["ppi"])

    @extend_schema_field(LayersSerializer(allow_null=True))
    def get_layers(self, page: Page) -> Any:
        known = page.layers is not None and "error" not in page.layers
        return LayersSerializer(page.layers).data if known else None


class ScanSerializer(serializers.ModelSerializer[Scan]):
    class Meta:
        model = Scan
        fields = ("id", "scanner", "state", "share", "pages_came", "message", "are_backs")
        read_only_fields = fields


class IntakeSerializer(serializers.ModelSerializer[Intake]):
    """pages: all, those taken out as well. scan: the last one, or null."""

    pages = PageSerializer(many=True, read_only=True)
    scan = serializers.SerializerMethodField()

    class Meta:
        model = Intake
        fields = ("id", "name", "pages", "scan")

    @extend_schema_field(ScanSerializer(allow_null=True))
    def get_scan(self, intake: Intake) -> Any:
        last = intake.scans.last()
        return ScanSerializer(last).data if last else None


class IntakeRowSerializer(serializers.ModelSerializer[Intake]):
    page_count = serializers.IntegerField()

    class Meta:
        model = Intake
        fields = ("id", "name", "page_count", "created_at")


class ScanRequestSerializer(serializers.Serializer[Any]):
    """again: the page that is scanned once more."""

    scanner = serializers.CharField(max_length=80)
    source = serializers.ChoiceField(choices=list(PaperSource))  # type: ignore[assignment] # a field of that name
    size = serializers.ChoiceField(choices=list(PaperSize), default=str(PaperSize.A4))
    ppi = serializers.IntegerField(min_value=50, max_value=1200, default=300)
    colours = PresentChoiceField(choices=list(ColourMode), default=str(ColourMode.COLOUR))
    both_sides = serializers.BooleanField(default=False)
    are_backs = serializers.BooleanField(default=False)
    again = serializers.UUIDField(allow_null=True, default=None)


class PageChangeSerializer(serializers.Serializer[Any]):
    turn = serializers.ChoiceField(choices=_QUARTERS, required=False)
    is_out = serializers.BooleanField(required=False)
    corners = CornersField(required=False, allow_null=True)


class OrderSerializer(serializers.Serializer[Any]):
    pages = serializers.ListField(child=serializers.UUIDField(), max_length=2000)


class PictureSerializer(serializers.Serializer[Any]):
    file = serializers.FileField()


class KeepSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=100)
    in_layers = serializers.BooleanField(default=True)


class KeptSerializer(serializers.Serializer[Any]):
    satchel = serializers.UUIDField()
