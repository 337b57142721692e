/* The things that the header of every block needs: readings and status codes. A block is a struct of settings, a struct
 * of state, and functions over the two, all of them the caller's:
 *
 *   rgp_NAME_check(config)      whether the settings are sound
 *   rgp_NAME_fault(config)      the first that is not, in words
 *   rgp_NAME_reset(state)       a state that knows nothing; memory of zeroes is one, too
 *   rgp_NAME_step(...)          one step by dt seconds: what comes out, with its quality
 *
 * No block allocates, blocks, or keeps a pointer to what it was given. A block that remembers nothing has no state and
 * no reset. Where a block's face differs, its header says why. */
#ifndef RIGPULSE_BLOCK_H
#define RIGPULSE_BLOCK_H

#include "rigpulse/linkage.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#endif
