"""Proofs as the API shows them."""

from typing import Any

from rest_framework import serializers

__all__ = ["GentlerSerializer", "ProofSerializer"]


class GentlerSerializer(serializers.Serializer[Any]):
    """Pictures to be left as they are, by part id."""

    parts = serializers.ListField(child=serializers.CharField(), min_length=1)


class ProofPictureSerializer(serializers.Serializer[Any]):
    """before, after: bytes. likeness, score: where it is shown on this page."""

    id = serializers.CharField()
    name = serializers.CharField()
    before = serializers.IntegerField()
    after = serializers.IntegerField()
    reason = serializers.CharField()
    is_exempt = serializers.BooleanField()
    likeness = serializers.FloatField()
    score = serializers.FloatField(allow_null=True)
    box = serializers.ListField(child=serializers.FloatField(), allow_null=True)


class ProofPlaceSerializer(serializers.Serializer[Any]):
    """A page, or in a document without pages a picture by its part.

    text_same: null where there is no text. worst: the place least alike, as left, low, right, high
    in points from the lower left.
    """

    page = serializers.IntegerField(allow_null=True)
    part = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    width_pt = serializers.FloatField()
    height_pt = serializers.FloatField()
    likeness = serializers.FloatField()
    text_same = serializers.BooleanField(allow_null=True)
    worst = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    faults = serializers.ListField(child=serializers.CharField())
    pictures = ProofPictureSerializer(many=True)


class CountSerializer(serializers.Serializer[Any]):
    kind = serializers.CharField()
    before = serializers.IntegerField()
    after = serializers.IntegerField()


class ProofSerializer(serializers.Serializer[Any]):
    """A copy beside its original; places in their order.

    remarks: what was not looked at, and why. gone: what the copy no longer has.
    """

    copy_id = serializers.CharField()
    satchel = serializers.CharField()
    satchel_name = serializers.CharField()
    document = serializers.CharField()
    name = serializers.CharField()
    copy_name = serializers.CharField()
    made_at = serializers.DateTimeField()
    bytes_before = serializers.IntegerField()
    bytes_after = serializers.IntegerField()
    limit = serializers.IntegerField(allow_null=True)
    verdict = serializers.ChoiceField(choices=["same", "close", "check"])
    verdict_title = serializers.CharField()
    verdict_summary = serializers.CharField()
    reasons = serializers.ListField(child=serializers.CharField())
    counts = CountSerializer(many=True)
    remarks = serializers.ListField(child=serializers.CharField())
    readers = serializers.ListField(child=serializers.CharField())
    gone = serializers.ListField(child=serializers.CharField())
    has_pages = serializers.BooleanField()
    places = ProofPlaceSerializer(many=True)
