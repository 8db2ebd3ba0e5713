"""What people write to name somebody or something: names as they are read, and addresses of mail."""

from typing import Any

from rest_framework import serializers

from gonfalon.access.roles import fold

LONGEST_ADDRESS = 254


class NameField(serializers.CharField):
    """A name without characters that nobody sees (`fold`). How long it is, is looked at before and after that."""

    def __init__(self, *, max_length: int, **options: Any) -> None:
        super().__init__(max_length=max_length, **options)

    def to_internal_value(self, data: Any) -> str:
        said = super().to_internal_value(data)
        if len(said) > 2 * (self.max_length or 0):
            self.fail("max_length", max_length=self.max_length)
        name = fold(said)
        if not name:
            self.fail("blank")
        return name


class AddressField(serializers.EmailField):
    """An address of mail that an account is to have: in plain letters, so that no two read alike are told apart."""

    def __init__(self, **options: Any) -> None:
        said = {"invalid": "This is not an e-mail address.", **options.pop("error_messages", {})}
        super().__init__(max_length=LONGEST_ADDRESS, error_messages=said, **options)

    def to_internal_value(self, data: Any) -> str:
        address = super().to_internal_value(data)
        if not address.isascii():
            raise serializers.ValidationError("Write it in plain letters; a name in others begins with xn--.")
        return address
