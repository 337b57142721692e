/* Status codes: one list gives the enum, the names and the texts. */
#ifndef RIGPULSE_STATUS_H
#define RIGPULSE_STATUS_H

#include "rigpulse/linkage.h"

#include <stddef.h>

RGP_DECLARATIONS_BEGIN

/* X(name, value, text). Zero is success; every failure is negative. New codes go to the end. */
#define RGP_STATUS_LIST(X)                                                                                             \
    X(OK, 0, "done")                                                   /* it was done, wholly */                       \
    X(E_ARGUMENT, -1, "an argument is missing or outside its range")   /* nothing was done */                          \
    X(E_CONFIG, -2, "a block's settings are impossible")               /* rgp_NAME_fault() says which */               \
    X(E_SIZE, -3, "the image's size is not the size it states")        /* cut off, or of another rig */                \
    X(E_FORMAT, -4, "this is not an image, or one of another version") /* rgp_image_version_of() says which version */ \
    X(E_DAMAGED, -5, "the image's checksum does not match its bytes")  /* load it again */                             \
    X(E_ALIGNMENT, -6, "the image or the memory is not aligned to 8 bytes") /* place it at a multiple of 8 */          \
    X(E_INDEX, -7, "the image refers to something that is not in it")       /* not made by this compiler */            \
    X(E_ORDER, -8, "the image uses a value before it is computed")          /* likewise */                             \
    X(E_MEMORY, -9,                                                                                                    \
      "the memory given is smaller than the image needs")      /* rgp_image_memory() says how much it needs */         \
    X(E_RANGE, -10, "the value is outside the declared range") /* the old value stands */                              \
    X(E_PORT, -11,                                                                                                     \
      "the port failed to read or write a channel") /* of a tick: the engine is stopped, and what can be rests */      \
    X(E_UNSUPPORTED, -12, "the port does not offer this")           /* do without */                                   \
    X(E_ROOM, -13, "more was asked at once than there is room for") /* ask for the rest later */                       \
    X(E_CHANNEL, -14, "a channel of the port does not answer")      /* this one alone; the others go on */

typedef enum rgp_status {
#define RGP_STATUS_ENUM(name, value, text) RGP_##name = (value),
    RGP_STATUS_LIST(RGP_STATUS_ENUM)
#undef RGP_STATUS_ENUM
} rgp_status;

/* Each block says in words what is wrong with its settings: rgp_NAME_fault() gives the first that is, and its limits,
 * "time: seconds, above 0, at most 1e6"; NULL: all are sound. Constants; empty where a small memory has no room for
 * them and the library is built with RGP_NO_WORDS. rgp_NAME_check() is RGP_OK where there is no such fault, else
 * RGP_E_CONFIG. */
#ifdef RGP_NO_WORDS
#define RGP_WORDS(text) ""
#else
#define RGP_WORDS(text) text
#endif

/* The code's name ("E_CONFIG") and its text in plain words. Both are constants that live for ever;
 * a number that is no code gives "E_UNKNOWN" and "unknown status". Callable from anywhere. */
const char *rgp_status_name(rgp_status status);
const char *rgp_status_text(rgp_status status);

RGP_DECLARATIONS_END

#endif
