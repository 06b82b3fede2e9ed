"""The look: one effect a file, in the order of `lantern.scene.look.EFFECTS`, over scene-linear light as float32."""
