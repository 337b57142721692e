/* The words of the ranks, and the owner among the claims on an actuator. */
#include "rigpulse/drive/claim.h"

const char *rgp_rank_text(uint8_t rank)
{
    static const char *const text[RGP_RANKS] = {
#define RGP_RANK_TEXT(name, words) words,
        RGP_RANK_LIST(RGP_RANK_TEXT)
#undef RGP_RANK_TEXT
    };
    return rank < RGP_RANKS ? text[rank] : "unknown rank";
}
