/* drive: command -> actuator. Small functions over plain numbers, since a command has no quality: who asks for it has
 * decided already.
 *
 *   claim       who owns an actuator
 *   pulse       an action for a time, and a holdoff behind it
 *   approach    the power that brings a mechanism to a place
 *   least       no command so small that nothing moves
 *   limit       within the travel
 *   slew        no faster than the mechanism may */
#ifndef RIGPULSE_DRIVE_H
#define RIGPULSE_DRIVE_H

#include "rigpulse/drive/approach.h"
#include "rigpulse/drive/claim.h"
#include "rigpulse/drive/least.h"
#include "rigpulse/drive/limit.h"
#include "rigpulse/drive/pulse.h"
#include "rigpulse/drive/slew.h"

#endif
