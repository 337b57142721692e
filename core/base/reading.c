/* The words of a reading's qualities. */
#include "rigpulse/reading.h"

const char *rgp_quality_text(rgp_quality quality)
{
    static const char *const text[RGP_QUALITIES] = {
#define RGP_QUALITY_TEXT(name, word, words) words,
        RGP_QUALITY_LIST(RGP_QUALITY_TEXT)
#undef RGP_QUALITY_TEXT
    };
    return quality < RGP_QUALITIES ? text[quality] : "unknown quality";
}

const char *rgp_quality_word(rgp_quality quality)
{
    static const char *const word[RGP_QUALITIES] = {
#define RGP_QUALITY_WORD(name, one, text) one,
        RGP_QUALITY_LIST(RGP_QUALITY_WORD)
#undef RGP_QUALITY_WORD
    };
    return quality < RGP_QUALITIES ? word[quality] : "?";
}
