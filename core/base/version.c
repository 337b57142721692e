/* The version of the library. */
#include "rigpulse/version.h"

#define TEXT_OF(number) #number
#define TEXT(number)    TEXT_OF(number)
#define JOINED(a, b, c) TEXT(a) "." TEXT(b) "." TEXT(c)

uint32_t rgp_version(void)
{
    return RGP_VERSION;
}

const char *rgp_version_text(void)
{
    return JOINED(RGP_VERSION_MAJOR, RGP_VERSION_MINOR, RGP_VERSION_PATCH);
}
