"""Weight sheets, and what a fit decides, as the API shows them."""

from typing import Any

from rest_framework import serializers

from lighten import ExtraKind, PartKind

__all__ = ["FitSerializer", "PictureSerializer", "SheetSerializer"]


class ChosenSerializer(serializers.Serializer[Any]):
    """Choice of a fit for one picture; score: predicted, of 100."""

    part = serializers.CharField()
    page = serializers.IntegerField(allow_null=True)
    before = serializers.IntegerField()
    after = serializers.IntegerField()
    score = serializers.FloatField()


class FitSerializer(serializers.Serializer[Any]):
    """Result of a fit for one document. used: those of the permitted changes that it needs.

    untried: pictures to be tried before anybody knows whether the limit can be met; else 0.
    """

    limit = serializers.IntegerField()
    bytes = serializers.IntegerField()
    is_met = serializers.BooleanField()
    untried = serializers.IntegerField()
    lightest = serializers.IntegerField()
    floor = serializers.FloatField()
    used = serializers.ListField(child=serializers.CharField())
    pictures = ChosenSerializer(many=True)


class PictureSerializer(serializers.Serializer[Any]):
    """ppi is null for a picture that no page shows; is_inline: the file has it within drawing.

    has_assumed_size: nothing says how large it is shown, so that a usual size was taken.
    """

    width_px = serializers.IntegerField()
    height_px = serializers.IntegerField()
    coding = serializers.CharField()
    colour = serializers.CharField()
    bits = serializers.IntegerField()
    has_assumed_size = serializers.BooleanField()
    is_inline = serializers.BooleanField()
    near = serializers.CharField(allow_blank=True)
    mask = serializers.CharField()
    picture_class = serializers.CharField()
    ppi = serializers.FloatField(allow_null=True)
    shown_pt = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    pages = serializers.ListField(child=serializers.IntegerField())
    placements = serializers.IntegerField()


class CellsSerializer(serializers.Serializer[Any]):
    """Cells of a sheet of a workbook; see `lighten.model.weights.SheetFacts`.

    bytes, bytes_then: all that it takes, with extras inside it. Names of columns are letters.
    """

    last_row = serializers.IntegerField()
    last_column = serializers.IntegerField()
    last_column_name = serializers.CharField(allow_blank=True)
    claimed_row = serializers.IntegerField()
    claimed_column = serializers.IntegerField()
    claimed_column_name = serializers.CharField(allow_blank=True)
    cells = serializers.IntegerField()
    blanks = serializers.IntegerField()
    is_hidden = serializers.BooleanField()
    untouchable = serializers.CharField(allow_blank=True)
    bytes = serializers.IntegerField()
    bytes_then = serializers.IntegerField()
    spelling_bytes = serializers.IntegerField()
    past_bytes = serializers.IntegerField()
    fills_bytes = serializers.IntegerField()


class StrayNameSerializer(serializers.Serializer[Any]):
    """A hidden or broken name of a workbook; see `lighten.model.weights.NameFacts`."""

    points_at = serializers.CharField(allow_blank=True)
    used_by = serializers.ListField(child=serializers.CharField())
    is_hidden = serializers.BooleanField()
    is_broken = serializers.BooleanField()
    # Sheets weighed before it was known have none.
    is_sound = serializers.BooleanField(default=False)


class SheetPartSerializer(serializers.Serializer[Any]):
    """can_be_spared: a font that may be left out. cells: of a sheet of a workbook.

    removed_with: the kind of extra that takes the part with it, or that it is.
    """

    id = serializers.CharField()
    kind = serializers.ChoiceField(choices=list(PartKind))
    name = serializers.CharField()
    bytes = serializers.IntegerField()
    bytes_then = serializers.IntegerField()
    extra = serializers.CharField(allow_null=True)
    removed_with = serializers.ChoiceField(choices=list(ExtraKind), allow_null=True)
    can_be_spared = serializers.BooleanField()
    decision = serializers.CharField()
    reason = serializers.CharField()
    likeness = serializers.FloatField(allow_null=True)
    picture = PictureSerializer(allow_null=True)
    cells = CellsSerializer(allow_null=True)
    stray_name = StrayNameSerializer(allow_null=True)


class SheetKindSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(choices=list(PartKind))
    count = serializers.IntegerField()
    bytes = serializers.IntegerField()
    bytes_then = serializers.IntegerField()


class SheetSerializer(serializers.Serializer[Any]):
    """is_measured: "then" comes from a copy, not from an estimate. parts: heaviest first."""

    is_measured = serializers.BooleanField()
    kinds = SheetKindSerializer(many=True)
    parts = SheetPartSerializer(many=True)
