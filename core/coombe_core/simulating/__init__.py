"""A simulated car, driver, receiver, CAN and weather, whose truth is known.

car            grip, power and resistance
driver         what a driver does
drive          the motion that comes of it
receiver       a log of a motion
can            CAN frames of a motion
battery        a battery that warms, cools and charges
scenarios      named drives with their truth
many           many launches at once
traffic        ordinary driving, hours at once
live_car       a car that is driven while others look on
live_receiver  its receiver
devices        its devices on ports
in_thread      the devices in a thread
"""

__all__ = [
    "battery",
    "can",
    "car",
    "devices",
    "drive",
    "driver",
    "in_thread",
    "live_car",
    "live_receiver",
    "many",
    "receiver",
    "scenarios",
    "traffic",
]
