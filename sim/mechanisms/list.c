/* The list of mechanisms. */
#include "mechanism.h"

/* All kinds, a file each, in the order of the documents. */
/* clang-format off */
#define KINDS(X) \
    X(tank) X(lag) X(vane) X(deck) X(boat) X(fog) X(carriage) X(lane) X(feeder) X(crossing) X(buoy) X(roadstead) \
    X(boiler) X(platform) X(mast) X(turntable) X(fender) X(outlook) X(dinghy)
/* clang-format on */

#define DECLARE(kind) extern const mechanism mechanism_##kind;
KINDS(DECLARE)

#define LIST(kind) &mechanism_##kind,
const mechanism *const mechanisms[] = {KINDS(LIST) NULL};

const mechanism *mechanism_of(const rgp_mechanism_kind *kind)
{
    for (uint32_t i = 0; mechanisms[i]; i++) {
        if (&mechanisms[i]->kind == kind) {
            return mechanisms[i];
        }
    }
    return NULL;
}
