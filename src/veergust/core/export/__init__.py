"""What is handed to the game: clips as glTF, what is compiled as JSON, its schemas, and the manifest that owns them."""
