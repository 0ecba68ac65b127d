"""The server's settings, but passwords are hashed quickly: how slow they are to guess is the framework's."""

from practice.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
