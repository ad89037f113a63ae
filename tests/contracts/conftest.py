from tests.apps.conftest import kit, owner, scene, shoot, stranger, visitor

__all__ = ["kit", "owner", "scene", "shoot", "stranger", "visitor"]
