"""Everything explained, for the page and for the printed guide."""

from collections.abc import Iterator, Mapping
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from lighten import (
    CLASSES_EXPLAINED,
    EXTRAS,
    PRESETS_EXPLAINED,
    VERDICTS_EXPLAINED,
    Explanation,
)

__all__ = ["GuideView"]

_CHAPTERS: tuple[tuple[str, str, Mapping[Any, Explanation]], ...] = (
    ("presets", "Presets: how gently", PRESETS_EXPLAINED),
    ("verdicts", "Verdicts: what the proof found", VERDICTS_EXPLAINED),
    ("classes", "Pictures, by what they show", CLASSES_EXPLAINED),
)


class ExplanationSerializer(serializers.Serializer[Any]):
    """loses: "" for nothing."""

    name = serializers.CharField()
    title = serializers.CharField()
    does = serializers.CharField()
    loses = serializers.CharField()
    use = serializers.CharField()


class ChapterSerializer(serializers.Serializer[Any]):
    name = serializers.ChoiceField(choices=["presets", "verdicts", "classes", "extras"])
    title = serializers.CharField()
    entries = ExplanationSerializer(many=True)


class GuideView(APIView):
    """Also for visitors: nothing in it is anybody's."""

    @extend_schema(responses=ChapterSerializer(many=True), operation_id="guide")
    def get(self, request: Request) -> Response:
        """Explain effect, cost and purpose of each preset, verdict, class of pictures and extra."""
        return Response(ChapterSerializer(list(_chapters()), many=True).data)


def _chapters() -> Iterator[dict[str, Any]]:
    for name, title, explained in _CHAPTERS:
        entries = [
            {
                "name": str(key),
                "title": explanation.title,
                "does": explanation.does,
                "loses": explanation.loses,
                "use": explanation.use,
            }
            for key, explanation in explained.items()
        ]
        yield {"name": name, "title": title, "entries": entries}
    extras = [
        {
            "name": str(kind),
            "title": extra.title,
            "does": extra.purpose,
            "loses": extra.loss,
            "use": "Safe to remove." if extra.is_safe else extra.warning or "By choice only.",
        }
        for kind, extra in EXTRAS.items()
    ]
    yield {"name": "extras", "title": "Extras: what pages can do without", "entries": extras}
