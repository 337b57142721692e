/* Tests of what a loop drives, by hand and with everything else at rest: pulses, one step, or a relay. */
#ifndef TOOL_PROCESS_TEST_H
#define TOOL_PROCESS_TEST_H

#include "subject.h"

/* Makes the test that the options name, and takes its rows. False, which has been said, when that cannot be; the
 * actuator rests in any case. */
bool test_run(subject *s);

#endif
