/* drive: command -> actuator. */
#ifndef RIGPULSE_DRIVE_H
#define RIGPULSE_DRIVE_H

#include "rigpulse/drive/approach.h"
#include "rigpulse/drive/claim.h"
#include "rigpulse/drive/least.h"
#include "rigpulse/drive/limit.h"
#include "rigpulse/drive/pulse.h"
#include "rigpulse/drive/slew.h"

#endif
