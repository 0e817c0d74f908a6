"""The motion of a run fitted to its fixes: speed, distance and their uncertainty.

fixes        fixes as a fit takes them
spline       cubic B-splines with integrals and derivatives
motion       the fit of speed by restricted likelihood
reml         the restricted likelihood
torque_ramp  shapes of a torque ramp
launch       first movement, with the torque ramp
mixing       one mean and covariance over all torque ramps
ramp_pool    one ramp for all runs of a setup
brake_onset  where coasting ends and braking begins
power_onset  about where full power comes in
dips         moments at which a pull falters
smoothing    what a receiver's filter makes of a start
doubts       by what errors exceeded what fits say
speed_fit    the whole: what timing asks of a run
"""

__all__ = [
    "brake_onset",
    "dips",
    "doubts",
    "fixes",
    "launch",
    "mixing",
    "motion",
    "power_onset",
    "ramp_pool",
    "reml",
    "smoothing",
    "speed_fit",
    "spline",
    "torque_ramp",
]
