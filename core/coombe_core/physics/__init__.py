"""What moves and holds back a car, and the course that it drives on.

air            density, density altitude, wind along a course
road_load      rotating mass, drag, rolling and slope
wheels         what a change of wheels amounts to
course         slope and direction of a course
reintegration  a run driven again with another acceleration
wheel_power    power at the wheels against speed
battery        heat, charge and power of the traction battery
"""

__all__ = ["air", "battery", "course", "reintegration", "road_load", "wheel_power", "wheels"]
