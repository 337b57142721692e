/* Status codes: one list gives the enum, the names and the texts. */
#ifndef RIGPULSE_STATUS_H
#define RIGPULSE_STATUS_H

#include "rigpulse/linkage.h"

#include <stddef.h>

RGP_DECLARATIONS_BEGIN

/* X(name, value, text). Zero is success; every failure is negative. New codes go to the end. */
#define RGP_STATUS_LIST(X)                                                  \
    X(OK, 0, "done")                                                        \
    X(E_ARGUMENT, -1, "an argument is missing or outside its range")        \
    X(E_CONFIG, -2, "a block's settings are impossible")                    \
    X(E_SIZE, -3, "the image's size is not the size it states")             \
    X(E_FORMAT, -4, "this is not an image, or one of another version")      \
    X(E_DAMAGED, -5, "the image's checksum does not match its bytes")       \
    X(E_ALIGNMENT, -6, "the image or the memory is not aligned to 8 bytes") \
    X(E_INDEX, -7, "the image refers to something that is not in it")       \
    X(E_ORDER, -8, "the image uses a value before it is computed")          \
    X(E_MEMORY, -9, "the memory given is smaller than the image needs")     \
    X(E_RANGE, -10, "the value is outside the declared range")              \
    X(E_PORT, -11, "the port failed to read or write a channel")            \
    X(E_UNSUPPORTED, -12, "the port does not offer this")                   \
    X(E_ROOM, -13, "more was asked at once than there is room for")

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
