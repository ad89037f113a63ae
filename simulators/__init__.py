"""Stand-ins for devices, each a small process on loopback with a documented line protocol (README.md)."""
