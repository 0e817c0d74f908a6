"""One module a kind of study: from the chosen runs to sentences, pictures and tables.

sweep          charge sweeps and warm-up: a measure against charge or battery temperature
in_order       braking series and repeatability: a measure against its place in the order
levels         tires and modes: a measure by level
roll_ons       pulls from several speeds
energy         what runs take out of the battery and put back
receivers      two receivers on the same passes
dashboard      indicated against true speed
history        a measure over months
laps           laps of one log
unlike         in which conditions the groups of a study differ
"""
