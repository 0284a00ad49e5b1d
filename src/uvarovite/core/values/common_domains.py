"""Mail domains that many people have, wherever they live: one that is a slip away from one of these is most often it.

Kept by hand: the large providers of the countries that the languages of the application are spoken in. Add one here when
people have it; whoever has a domain of this list is never told that it looks like another.
"""

# The most usual ones first: between two that a domain looks like, the first is meant.
_DOMAINS = """
gmail.com googlemail.com yahoo.com ymail.com rocketmail.com hotmail.com outlook.com live.com msn.com icloud.com
me.com mac.com aol.com mail.com email.com gmx.com proton.me protonmail.com pm.me zoho.com fastmail.com hey.com
tutanota.com yahoo.co.uk hotmail.co.uk live.co.uk btinternet.com sky.com talktalk.net virginmedia.com
ntlworld.com blueyonder.co.uk gmx.de gmx.net gmx.at gmx.ch web.de t-online.de freenet.de arcor.de posteo.de
mailbox.org hotmail.de yahoo.de outlook.de aon.at chello.at bluewin.ch hispeed.ch orange.fr wanadoo.fr free.fr
laposte.net sfr.fr neuf.fr yahoo.fr hotmail.fr live.fr outlook.fr wp.pl onet.pl onet.eu o2.pl interia.pl
interia.eu gazeta.pl poczta.fm tlen.pl ziggo.nl kpnmail.nl xs4all.nl hotmail.nl telenet.be skynet.be libero.it
alice.it virgilio.it tiscali.it hotmail.it yahoo.it hotmail.es yahoo.es telefonica.net sapo.pt comcast.net
verizon.net att.net sbcglobal.net bellsouth.net cox.net charter.net
"""
COMMON_DOMAINS: tuple[str, ...] = tuple(_DOMAINS.split())
