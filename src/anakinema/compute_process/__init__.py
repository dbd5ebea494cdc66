"""Computing in a process of its own, so that who asks (a window) is never held up by it, nor ended by its mistakes.

`tasks` are what can be asked; `inside` is the loop of the process; `outside` is the process as its owner sees it;
`parcels` are what goes between the two.
"""

from .outside import ComputeProcess, Died, engaged, given_back, ready
from .parcels import Mistake

__all__ = ["ComputeProcess", "Died", "Mistake", "engaged", "given_back", "ready"]
