"""Reading and timing while fixes come in; the same results as for the whole file.

streaming  bytes in, fixes out
nmea       NMEA sentence by sentence
ubx        UBX message by message
timing     each run once its result is final
status     one word for where things stand
can        CAN frames as they come
"""

__all__ = ["can", "nmea", "status", "streaming", "timing", "ubx"]
