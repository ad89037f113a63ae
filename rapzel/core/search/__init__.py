"""Settings found for a scene: which lights, at which power, aperture, ISO, shutter and method (science §8).

`limits` says what may be used, `ways` what is varied by a method, `pulses` what a kit's strobes do at every power,
`rigs` which lights together freeze and meet the shutter, `fitting` which dials and places expose them right, `find`
counts and ranks, `hits` makes scenes of what was found.
"""
