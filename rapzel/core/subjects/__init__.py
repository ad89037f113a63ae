"""What stands before the camera: drawn subjects, one's own cut-out, and how bright each is. Below the physics."""
