"""Serializers of messages."""

from typing import Any

from rest_framework import serializers

from web.mail.models import Sending

__all__ = ["MailSerializer", "SendRequestSerializer", "SendingSerializer"]

_MOST_RECEIVERS = 20


class MessageSerializer(serializers.Serializer[Any]):
    """size_bytes: as it travels, headers and all. fits: the limit, where it counts messages."""

    number = serializers.IntegerField()
    subject = serializers.CharField()
    size_bytes = serializers.IntegerField()
    fits = serializers.BooleanField()
    files = serializers.ListField(child=serializers.CharField())


class SendingSerializer(serializers.ModelSerializer[Sending]):
    receivers = serializers.ListField(child=serializers.CharField(), read_only=True)

    class Meta:
        model = Sending
        fields = ("id", "receivers", "state", "messages", "error_message", "created_at")
        read_only_fields = fields


class MailSerializer(serializers.Serializer[Any]):
    """can_send: a mail server is set up here."""

    messages = MessageSerializer(many=True)
    can_send = serializers.BooleanField()
    sendings = SendingSerializer(many=True)


class SendRequestSerializer(serializers.Serializer[Any]):
    receivers = serializers.ListField(
        child=serializers.EmailField(), min_length=1, max_length=_MOST_RECEIVERS
    )
